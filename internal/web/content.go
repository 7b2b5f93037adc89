package web

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/board"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// Content is what is saved, worked on and compared: a view, or a board of views. One of the two is there.
type Content struct {
	View  *view.Document
	Board *board.Board
}

// Schema says that either can stand there.
func (Content) Schema(r huma.Registry) *huma.Schema {
	return &huma.Schema{OneOf: []*huma.Schema{
		r.Schema(reflect.TypeFor[view.Document](), true, ""), r.Schema(reflect.TypeFor[board.Board](), true, ""),
	}}
}

// MarshalJSON writes the one that is there.
func (c Content) MarshalJSON() ([]byte, error) {
	var one any = c.View
	if c.Board != nil {
		one = c.Board
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false) // whoever writes what is around it decides that
	err := enc.Encode(one)
	return b.Bytes(), err
}

// UnmarshalJSON reads either. The error is view.Faults.
func (c *Content) UnmarshalJSON(text []byte) error {
	got, err := contentOf(text)
	if err == nil {
		*c = got
	}
	return err
}

// contentOf reads a board, which has parts, or else a view.
func contentOf(text []byte) (c Content, err error) {
	var has struct{ Parts, Records json.RawMessage }
	// What is no object is told of as a view.
	if json.Unmarshal(text, &has) == nil && has.Parts != nil && has.Records == nil {
		c.Board, err = board.Parse(text)
	} else {
		c.View, err = view.Parse(text)
	}
	return c, err
}

// Kind is what it is.
func (c Content) Kind() store.Kind {
	if c.Board != nil {
		return store.BoardKind
	}
	return store.ViewKind
}

// mayStand is the problem with a content that cannot be saved: a view that cannot run, a board that makes no
// sense. What is wrong with a board's views stands in its parts; they may be mended meanwhile.
func (s service) mayStand(ctx context.Context, g *requestScope, c Content) error {
	var err error
	if c.Board != nil {
		err = c.Board.Check()
	} else {
		_, err = g.Check(c.View)
	}
	if err != nil {
		return s.refusedAt(ctx, "body.document", err)
	}
	return nil
}

// changed says what leads from one content to another.
func (s service) changed(ctx context.Context, g *requestScope, from, to Content) ([]string, error) {
	if from.Kind() != to.Kind() {
		return nil, huma.Error422UnprocessableEntity("One of them is a view and the other a board; they cannot be compared.")
	}
	if from.Board != nil {
		names, err := s.viewNames(ctx, append(from.Board.Views(), to.Board.Views()...))
		if err != nil {
			return nil, err
		}
		return board.Changes(from.Board, to.Board, names), nil
	}
	var states [2]brief.Version
	for i, doc := range []*view.Document{from.View, to.View} {
		p, err := g.Check(doc)
		if err != nil {
			return nil, err
		}
		states[i] = brief.Version{Doc: doc, Plan: p, Set: g.Catalog.Set(doc.Records)}
	}
	return brief.Changes(states[0], states[1]), nil
}

// viewNames names views by their keys, as far as the reader may see them.
func (s service) viewNames(ctx context.Context, keys []string) (func(string) string, error) {
	names := map[string]string{}
	if len(keys) > 0 {
		views, err := s.Store.ViewsOf(ctx, who(ctx).ID, keys)
		if err != nil {
			return nil, s.failed(ctx, "views", err)
		}
		for _, v := range views {
			names[v.Key] = v.Name
		}
	}
	return func(key string) string { return board.Named(names[key]) }, nil
}

// viewDocument is the document of a view with its records, or the problem if it is a board, or shown by its totals.
func viewDocument(v View) (*view.Document, error) {
	switch {
	case v.Document.View == nil:
		return nil, errIsBoard
	case v.Least > 0:
		return nil, errTotalsOnly
	}
	return v.Document.View, nil
}

// errIsBoard says that a board cannot do what a view can.
var errIsBoard = huma.Error422UnprocessableEntity("This is a board. Open one of its views to do this.")

// isObject says that a JSON text begins as an object does.
func isObject(raw json.RawMessage) bool { return bytes.HasPrefix(bytes.TrimSpace(raw), []byte("{")) }

// wrongForm are the faults of the form of a content.
func wrongForm(raw json.RawMessage) (faults view.Faults) {
	_, err := contentOf(raw)
	errors.As(err, &faults)
	return faults
}

// summarizeBoard says what a board is.
func summarizeBoard(out *ViewSummary, v store.View, names func(string) string) {
	doc, err := board.Parse(v.Document)
	if err != nil {
		out.Broken, out.Brief = true, sentence(err.Error())
		return
	}
	out.Brief = doc.Sentence(names)
}

// boardsViews are the keys of the views that the boards among some saved documents are of.
func boardsViews(list []store.View) (keys []string) {
	for _, v := range list {
		if v.Kind != store.BoardKind {
			continue
		}
		if doc, err := board.Parse(v.Document); err == nil {
			keys = append(keys, doc.Views()...)
		}
	}
	return keys
}
