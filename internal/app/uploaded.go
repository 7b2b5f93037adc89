package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync"

	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// uploaded is a file in its parts, as they lie in the database. It keeps the last few.
type uploaded struct {
	ctx   context.Context
	store *store.Store
	id    string
	size  int64

	mu    sync.Mutex // protects following fields
	parts map[int64][]byte
	order []int64 // the one used longest ago first
}

// keptParts is how many parts of one file are in memory.
const keptParts = 4

// opened is a file that has arrived, as one that can be read at any place.
func (a *App) opened(ctx context.Context, u store.Upload) *io.SectionReader {
	f := &uploaded{ctx: ctx, store: a.Store, id: u.ID, size: u.Size, parts: map[int64][]byte{}}
	return io.NewSectionReader(f, 0, u.Size)
}

// ReadAt reads from a place on; see io.ReaderAt.
func (f *uploaded) ReadAt(p []byte, at int64) (n int, err error) {
	for n < len(p) && at < f.size {
		part, err := f.part(at / store.PartBytes)
		if err != nil {
			return n, err
		}
		got := copy(p[n:], part[min(at%store.PartBytes, int64(len(part))):])
		if got == 0 {
			return n, io.ErrUnexpectedEOF
		}
		n, at = n+got, at+int64(got)
	}
	if n < len(p) {
		return n, io.EOF
	}
	return n, nil
}

func (f *uploaded) part(place int64) ([]byte, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	part, ok := f.parts[place]
	if ok {
		return part, nil
	}
	part, err := f.store.Part(f.ctx, f.id, place)
	if err != nil {
		return nil, fmt.Errorf("app: a part of the file: %w", err)
	}
	if len(f.order) == keptParts {
		delete(f.parts, f.order[0])
		f.order = f.order[1:]
	}
	f.parts[place], f.order = part, append(f.order, place)
	return part, nil
}

// ErrArriving says that not all of a file has arrived.
var ErrArriving = errors.New("app: the file has not arrived as a whole")

// Looked is what a file would become.
type Looked struct {
	*files.Look
	// Links tell of each link of the recipe how many of the file's values lead nowhere.
	Links []Unmatched
}

// Unmatched are the values of a link that no record has.
type Unmatched struct {
	files.RecipeLink
	Rows, Values int
	Examples     []string
	Err          string // why it cannot be a link at all
}

// LookAt looks over a file that a person has sent. Without a recipe, all of it is guessed; g is what
// the person sees.
func (a *App) LookAt(
	ctx context.Context, g *Scope, u store.Upload, s files.Settings, r *files.Recipe,
) (*Looked, error) {
	if u.Received < u.Size {
		return nil, ErrArriving
	}
	f, err := files.Open(ctx, a.opened(ctx, u), u.File, s)
	if err != nil {
		return nil, err
	}
	look, err := f.Look(ctx, r, g.Calendar)
	if err != nil {
		return nil, err
	}
	links, err := g.unmatched(ctx, look)
	return &Looked{look, links}, err
}

// unmatched looks for the values of links among the records that they lead to.
func (g *Scope) unmatched(ctx context.Context, look *files.Look) ([]Unmatched, error) {
	out := []Unmatched{}
	for _, link := range look.Recipe.Links {
		u := Unmatched{RecipeLink: link, Examples: []string{}}
		set, f := g.Catalog.Set(link.To), look.Recipe.Field(link.By)
		switch into := set.Field(link.Into); {
		case into == nil:
			u.Err = "the records that it leads to are not there"
		case into.Type != f.Type && !(into.Type.Numeric() && f.Type.Numeric()):
			u.Err = fmt.Sprintf("“%s” is %s and “%s” of %s is %s; make them the same", f.Label, f.Type.Word(), into.Label, set.Many, into.Type.Word())
		default:
			values, err := look.File.Distinct(ctx, look.Recipe, link.By, g.Calendar)
			if err != nil {
				return nil, err
			}
			there := g.holds(link.To, *into)
			for _, v := range values {
				if !there(v.Value) {
					u.Rows, u.Values = u.Rows+v.Rows, u.Values+1
					if len(u.Examples) < unmatchedNamed {
						u.Examples = append(u.Examples, v.As)
					}
				}
			}
		}
		out = append(out, u)
	}
	return out, nil
}

// unmatchedNamed is how many values that lead nowhere are named.
const unmatchedNamed = 100
