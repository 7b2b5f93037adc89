package app

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sync"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/description"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/facts"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/reading"
	"gavrik/internal/pgreader"
	"gavrik/internal/store"
)

// describing is a load and the last way in which it was described.
type describing struct {
	loaded description.Records

	sync.Mutex // one at a time
	stamp      string
	last       *Dataset
	read       description.Read
	// said is what the description of a stamp made of the load; facts are laid over it.
	saidStamp string
	said      *description.Applied
	laid      *facts.Laid
}

// after begins with what the load before has read: columns that are the same are read the same.
func (x *describing) after(was *describing) {
	was.Lock()
	defer was.Unlock()
	x.read, x.laid = was.read, was.laid
}

// describe takes over what people say about the records.
func (d *Agreement) describe(all []store.Described) error {
	d.Described, d.Description = all, store.Whole(all)
	if len(d.Description.Sets) == 0 {
		return nil
	}
	text, err := d.Description.File()
	d.descriptionStamp = fmt.Sprintf("%x", sha256.Sum256(text))
	return err
}

// DescribedSet is what people say about a record set; the zero one, if nobody has said anything.
func (d *Agreement) DescribedSet(key string) store.Described {
	i := slices.IndexFunc(d.Described, func(one store.Described) bool { return one.Set == key })
	if i < 0 {
		return store.Described{Set: key, Body: &description.SetWords{}}
	}
	return d.Described[i]
}

// describedBy is a load as an agreement describes it, with the facts that people have added. It is
// made once for all who see it so: what was read as another type stays read when something else is
// said, and what was said stays when a fact is filled in.
func (d *Dataset) describedBy(
	ctx context.Context, by *Agreement, filled *Facts, cal calendar.Calendar,
) (*Dataset, error) {
	stamp := by.descriptionStamp + " " + filled.version()
	if stamp == " " {
		return d, nil
	}
	x := d.describing
	x.Lock()
	defer x.Unlock()
	if x.stamp == stamp {
		return x.last, nil
	}
	var made *facts.Laid
	err := fault.Caught(func() error {
		// Whoever asked first may give up; others wait for it, too.
		ctx := context.WithoutCancel(ctx)
		if x.said == nil || x.saidStamp != by.descriptionStamp {
			said, err := description.Apply(ctx, x.loaded, by.Description, cal, x.read)
			if err != nil {
				return err
			}
			x.saidStamp, x.said, x.read = by.descriptionStamp, said, said.Read
		}
		var list []facts.Filled
		if filled != nil {
			list = filled.filled()
		}
		var err error
		made, err = facts.Lay(ctx, x.said.Records, list, x.laid)
		return err
	})
	if err != nil {
		return nil, err
	}
	problems := slices.Concat(x.said.Problems, made.Problems)
	made.Catalog.Notices = slices.Clone(made.Catalog.Notices)
	for _, p := range problems {
		made.Catalog.Notices = append(made.Catalog.Notices, p.String())
	}
	h := newDataset("described "+stamp, made.Snapshot, made.Catalog, d.shared, pgreader.Seen{
		Links: awayLinks(x.said.Led), Keys: x.said.Keys,
	})
	h.describing, h.Problems = x, problems
	x.stamp, x.last, x.laid = stamp, h, made
	return h, nil
}

// AsLoaded is the catalog as the databases describe it.
func (d *Dataset) AsLoaded() *catalog.Catalog { return d.describing.loaded.Catalog }

// Tried is a description that nobody has said yet.
type Tried struct {
	// Problems are statements that would not hold, beside those that do not hold already.
	Problems []description.Problem
	// Catalog is what views would be checked against.
	Catalog *catalog.Catalog
}

// Describes tries a description of one record set.
func (g *Scope) Describes(ctx context.Context, set string, said *description.SetWords) (*Tried, error) {
	tried := &description.Description{Sets: maps.Clone(g.Agreed.Description.Sets)}
	if tried.Sets[set] = said; said == nil {
		delete(tried.Sets, set)
	}
	x := g.describing
	x.Lock()
	read := x.read
	x.Unlock()
	made, err := description.Apply(ctx, x.loaded, tried, g.Calendar, read)
	if err != nil {
		return nil, err
	}
	if problem, err := g.keyProblem(ctx, set, said); err != nil {
		return nil, err
	} else if problem != nil {
		made.Problems = append(made.Problems, *problem)
	}
	x.Lock()
	x.read = made.Read // it is likely to be said
	x.Unlock()
	laid, err := facts.Lay(ctx, made.Records, g.Facts.filled(), nil)
	if err != nil {
		return nil, err
	}
	return &Tried{slices.DeleteFunc(made.Problems, func(p description.Problem) bool {
		return slices.Contains(g.Problems, p)
	}), laid.Catalog}, nil
}

// keyProblem asks the database whether a field tells records apart which stay there, if nobody has said so
// before.
func (g *Scope) keyProblem(
	ctx context.Context, set string, said *description.SetWords,
) (*description.Problem, error) {
	of := g.Catalog.Set(set)
	if said == nil || said.Key == "" || of == nil || !of.Stays || g.staying.Keys[set] == said.Key {
		return nil, nil
	}
	f := g.AsLoaded().Set(set).Field(said.Key)
	if f == nil || f.Unique { // another problem, or none
		return nil, nil
	}
	apart, err := g.staying.TellsApart(ctx, set, said.Key)
	if err != nil || apart {
		return nil, err
	}
	return &description.Problem{Set: set, Path: "key", Message: fmt.Sprintf(
		"%s does not tell %s apart: a value of it is blank, or two records share one.", f.Label, of.Many,
	)}, nil
}

// Reading is a field as its database has it, and as it would be if it were read as another type.
type Reading struct {
	Before, After catalog.Field
	// Filled counts the records with a value, Lost those whose value cannot be read so.
	Filled, Lost int
	Examples     []string // of the values that are lost
	Samples      [][2]cell.Cell
}

// ErrUnread says that values of one type cannot be read as another in some way.
var ErrUnread = errors.New("app: the values cannot be read so")

// ReadAs looks at what a field would be as another type; ErrUnread says that it cannot be.
func (g *Scope) ReadAs(ctx context.Context, set, field string, to catalog.Type, way string) (*Reading, error) {
	loaded := g.describing.loaded
	f := loaded.Catalog.Set(set).Field(field)
	w, ok := reading.Find(f.Type, to, way)
	if !ok {
		return nil, ErrUnread
	}
	col := loaded.Snapshot.Tables[set].Column(field)
	r, err := reading.Column(ctx, col, *f, to, w, g.Calendar)
	if err != nil {
		return nil, err
	}
	out := &Reading{Before: *f, After: *f, Filled: col.Len() - col.Blanks(), Lost: r.Lost, Examples: r.Examples}
	out.After.Type, out.After.Scale, out.After.Approx, out.After.Format = to, r.Scale, r.Approx, nil
	for _, row := range r.Samples {
		out.Samples = append(out.Samples, [2]cell.Cell{
			engine.CellAt(col, out.Before, row), engine.CellAt(r.Column, out.After, row),
		})
	}
	return out, nil
}
