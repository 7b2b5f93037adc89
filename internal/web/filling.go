package web

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/format"
	"gavrik/internal/store"
)

type fillInput struct {
	Set  string `path:"set"`
	Key  string `path:"key"`
	Body struct {
		Values []struct {
			Record string  `json:"record" maxLength:"400" doc:"What the record is opened by, or what else tells it apart"`
			Value  string  `json:"value" maxLength:"2000" doc:"As it was typed; empty for none"`
			Was    *string `json:"was,omitempty" maxLength:"2000" doc:"What stood there when she began, as kept; left out, it is written in any case"`
		} `json:"values" minItems:"1" maxItems:"20000"`
		By    string `json:"by,omitempty" maxLength:"200" doc:"Field that the records are found by; the one that finds the most, if left out"`
		Check bool   `json:"check,omitempty" doc:"Only say what would be written"`
	}
}

// HeldValue is a value that somebody else has filled in meanwhile.
type HeldValue struct {
	Record string    `json:"record"`
	Value  string    `json:"value" doc:"As it is kept; empty for none"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// UnreadValue is a typed value that came to nothing.
type UnreadValue struct {
	Place  int    `json:"place" doc:"Among the values that were sent"`
	Record string `json:"record"`
	Value  string `json:"value"`
	Reason string `json:"reason"`
}

// Filling says what filling in came to, or would come to.
type Filling struct {
	Batch   int64         `json:"batch" doc:"Names what was written, to undo it; 0 if nothing was"`
	Written int           `json:"written"`
	New     int           `json:"new" doc:"Records that had no value"`
	Changed int           `json:"changed"`
	Emptied int           `json:"emptied"`
	Same    int           `json:"same" doc:"Values that stood there already"`
	Held    []HeldValue   `json:"held" doc:"Somebody else filled these in meanwhile; they were not written"`
	Unread  []UnreadValue `json:"unread" doc:"The first values that came to nothing, and why"`
	Unreads int           `json:"unreads" doc:"How many those are in all"`
	By      string        `json:"by" doc:"Label of the field that the records were found by"`
}

type (
	fillOutput struct{ Body Filling }

	undoFillInput struct {
		Set  string `path:"set"`
		Key  string `path:"key"`
		Body struct {
			Batch int64 `json:"batch"`
		}
	}
	factHistoryInput struct {
		Set    string `path:"set"`
		Key    string `path:"key"`
		Record string `query:"record" maxLength:"400" required:"true" doc:"What the record is opened by"`
	}
	factHistoryOutput struct {
		Body struct {
			Now     string       `json:"now" doc:"As it is kept; empty for none"`
			Changes []FactChange `json:"changes" doc:"The newest first"`
		}
	}
)

// FactChange is who filled in what.
type FactChange struct {
	Before string    `json:"before"`
	After  string    `json:"after"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

const (
	// shownUnread is how many values that came to nothing are named.
	shownUnread = 100
	// shownChanges is how many changes of a value are told.
	shownChanges = 50
	fillBytes    = 32 << 20
)

func (s *rules) registerFilling(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "fill-in", Method: http.MethodPost, Path: "/api/facts/{set}/{key}/values",
		Summary: "Fill a fact in for one record or many, or look at what would be written", MaxBodyBytes: fillBytes,
		Errors: []int{403, 404, 413},
	}, s.fillIn)
	huma.Register(api, huma.Operation{
		OperationID: "undo-filling", Method: http.MethodPost, Path: "/api/facts/{set}/{key}/undo",
		Summary: "Put back what one act of filling in replaced", Errors: []int{403, 404},
	}, s.undoFilling)
	huma.Register(api, huma.Operation{
		OperationID: "fact-history", Method: http.MethodGet, Path: "/api/facts/{set}/{key}/history",
		Summary: "Who filled in what for a record, and when", Errors: []int{404},
	}, s.factHistory)
}

// seenFact is a fact that the one who asks sees.
func (s *rules) seenFact(ctx context.Context, set, key string) (*requestScope, *store.Fact, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, nil, err
	}
	f, of := g.Facts.Of(set, key), g.Catalog.Set(set)
	if f == nil || of == nil || of.Field(key) == nil || of.Field(f.Body.By) == nil {
		return nil, nil, huma.Error404NotFound("There is no such fact.")
	}
	return g, f, nil
}

// fillable is seenFact for whoever may fill it in.
func (s *rules) fillable(ctx context.Context, set, key string) (*requestScope, *store.Fact, error) {
	g, f, err := s.seenFact(ctx, set, key)
	if err == nil && !app.MayFill(who(ctx), f.Body) {
		err = huma.Error403Forbidden(fmt.Sprintf("“%s” is not yours to fill in. Ask %s, who added it.", f.Body.Label, f.MadeBy))
	}
	return g, f, err
}

func (s *rules) fillIn(ctx context.Context, in *fillInput) (*fillOutput, error) {
	g, f, err := s.fillable(ctx, in.Set, in.Key)
	if err != nil {
		return nil, err
	}
	typed := make([]app.Typed, len(in.Body.Values))
	for i, v := range in.Body.Values {
		typed[i] = app.Typed(v)
	}
	look, err := g.Read(ctx, f, typed, in.Body.By)
	if err != nil {
		return nil, s.failed(ctx, "fill in", err)
	}
	out := fillingOf(g, f, typed, look)
	if in.Body.Check {
		return out, nil
	}
	done, err := s.Store.FillIn(ctx, who(ctx), f.ID, look.Fills)
	if err != nil {
		return nil, s.failed(ctx, "fill in", err)
	}
	out.Body.written(done)
	return out, nil
}

func (f *Filling) written(done *store.Filled) {
	f.Batch, f.Written = done.Batch, done.Written
	for _, h := range done.Held {
		held := HeldValue{Record: h.Record, By: h.By, At: h.At}
		if h.After != nil {
			held.Value = *h.After
		}
		f.Held = append(f.Held, held)
	}
}

func fillingOf(g *requestScope, f *store.Fact, typed []app.Typed, look *app.Look) *fillOutput {
	out := &fillOutput{Filling{
		New: look.New, Changed: look.Changes, Emptied: look.Emptied, Same: look.Same, By: look.By.Label,
		Held: []HeldValue{}, Unread: []UnreadValue{}, Unreads: len(look.Missing) + len(look.Wrong) + len(look.Twice),
	}}
	set := g.Catalog.Set(f.Set)
	why := map[int]string{}
	for _, i := range look.Missing {
		why[i] = fmt.Sprintf("no %s is known by this", set.One)
	}
	for _, i := range look.Twice {
		why[i] = fmt.Sprintf("the same %s came before", set.One)
	}
	maps.Copy(why, look.Wrong)
	for _, i := range slices.Sorted(maps.Keys(why)) {
		if len(out.Body.Unread) < shownUnread {
			out.Body.Unread = append(out.Body.Unread, UnreadValue{i, typed[i].Record, typed[i].Value, why[i]})
		}
	}
	return out
}

func (s *rules) undoFilling(ctx context.Context, in *undoFillInput) (*fillOutput, error) {
	_, f, err := s.fillable(ctx, in.Set, in.Key)
	if err != nil {
		return nil, err
	}
	done, err := s.Store.UndoFilling(ctx, who(ctx), f.ID, in.Body.Batch)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("This was not yours, or is not there any more.")
	}
	if err != nil {
		return nil, s.failed(ctx, "undo", err)
	}
	out := &fillOutput{Filling{Held: []HeldValue{}, Unread: []UnreadValue{}}}
	out.Body.written(done)
	return out, nil
}

func (s *rules) factHistory(ctx context.Context, in *factHistoryInput) (*factHistoryOutput, error) {
	g, f, err := s.seenFact(ctx, in.Set, in.Key)
	if err != nil {
		return nil, err
	}
	look, err := g.Read(ctx, f, []app.Typed{{Record: in.Record}}, "")
	if err != nil {
		return nil, s.failed(ctx, "history", err)
	}
	out := &factHistoryOutput{}
	out.Body.Changes = []FactChange{}
	if len(look.Fills) == 0 {
		return nil, huma.Error404NotFound("There is no such record.")
	}
	record := look.Fills[0].Record
	out.Body.Now = g.Facts.Value(f.ID, record)
	list, err := s.Store.FillingsOf(ctx, f.ID, record, shownChanges)
	if err != nil {
		return nil, s.failed(ctx, "history", err)
	}
	pen := format.NewWriter(format.People, g.Calendar)
	field := f.Body.Field()
	words := func(kept *string) string {
		if kept == nil {
			return ""
		}
		return pen.Cell(f.Body.Cell(*kept), field)
	}
	for _, c := range list {
		out.Body.Changes = append(out.Body.Changes, FactChange{words(c.Before), words(c.After), c.By, c.At})
	}
	return out, nil
}
