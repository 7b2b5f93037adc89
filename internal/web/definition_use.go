package web

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// user is a saved view with the plan that says what it uses.
type user struct {
	view store.View
	doc  *view.Document
	uses [][2]string
}

// users are the views that run, with the definitions they use, whatever of them is kept
// from the reader: a definition is in use, whoever asks.
func (s *rules) users(ctx context.Context) (seen []user, hidden []user, err error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, nil, err
	}
	views, err := s.Store.Views(ctx, who(ctx).ID)
	if err != nil {
		return nil, nil, s.failed(ctx, "views", err)
	}
	others, err := s.Store.HiddenViews(ctx, who(ctx).ID)
	if err != nil {
		return nil, nil, s.failed(ctx, "views", err)
	}
	read := func(v store.View) (user, bool) {
		doc, err := view.Parse(v.Document)
		if err != nil {
			return user{}, false
		}
		p, err := g.Check(doc)
		if err != nil {
			return user{}, false
		}
		return user{v, doc, p.Uses()}, true
	}
	for _, v := range views {
		if u, ok := read(v); ok {
			seen = append(seen, u)
		}
	}
	for _, doc := range others {
		if u, ok := read(store.View{Document: doc}); ok {
			hidden = append(hidden, u)
		}
	}
	return seen, hidden, nil
}

func using(users []user, records, key string) (out []user) {
	for _, u := range users {
		if slices.Contains(u.uses, [2]string{records, key}) {
			out = append(out, u)
		}
	}
	return out
}

// namedUsers is how many of the views that use a definition are named.
const namedUsers = 5

// unused says what uses a definition, if anything does: views, and other definitions.
func (s *rules) unused(ctx context.Context, set, key string) error {
	seen, hidden, err := s.users(ctx)
	if err != nil {
		return err
	}
	var users []string
	for _, u := range using(seen, set, key) {
		users = append(users, "“"+u.view.Name+"”")
	}
	if n := len(users) - namedUsers; n > 0 {
		users = append(users[:namedUsers], fmt.Sprintf("%d other views", n))
	}
	if n := len(using(hidden, set, key)); n > 0 {
		users = append(users, counted(n, "view of others", "views of others"))
	}
	made, err := s.madeOfIt(ctx, set, key)
	if err != nil {
		return err
	}
	if users = append(users, made...); len(users) == 0 {
		return nil
	}
	return huma.Error409Conflict(fmt.Sprintf(
		"This definition is used by %s, which would not run any more. Take it out of them first, or delete it anyway.",
		strings.Join(users, ", "),
	))
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// madeOfIt names the definitions that are made of another.
func (s *rules) madeOfIt(ctx context.Context, set, key string) ([]string, error) {
	full, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	rest, err := full.Agreed.With(set, key, nil)
	if err != nil {
		return nil, s.failed(ctx, "delete definition", err)
	}
	var out []string
	for _, other := range full.Agreed.List {
		if other.Records == set && other.Key == key {
			continue
		}
		doc := &view.Document{
			Gavrik: view.Version, Records: other.Records, Columns: []view.Column{{Field: other.Key}},
		}
		if _, err := full.Check(doc); err != nil {
			continue // broken already
		}
		if _, err := plan.CheckWith(doc, full.Catalog, rest, full.Calendar); err != nil {
			out = append(out, "the definition “"+full.Agreed.Definitions.Label(other.Records, other.Key)+"”")
		}
	}
	return out, nil
}

// effects runs every view that uses a definition as it is and as it would be.
func (s *rules) effects(ctx context.Context, in *saveDefinitionInput) (*effectsOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if _, ok := g.stored(in.Set, in.Key); !ok || g.Catalog.Set(in.Set) == nil {
		return nil, huma.Error404NotFound("There is no such definition.")
	}
	in.Body.Records = in.Set
	_, defs, err := s.changed(ctx, g, in.Body.DefinitionBody, in.Key)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	seen, hidden, err := s.users(ctx)
	if err != nil {
		return nil, err
	}
	out := &effectsOutput{}
	out.Body.Effects, out.Body.Hidden = []Effect{}, len(using(hidden, in.Set, in.Key))
	for _, u := range using(seen, in.Set, in.Key) {
		e := Effect{View: NamedView{u.view.Key, u.view.Name}, Totals: []Moved{}}
		before, err := g.Answer(ctx, u.doc)
		var faults plan.Faults
		if errors.As(err, &faults) { // it needs what is restricted for the reader
			e.Fault = sentence(faults[0].Message)
			out.Body.Effects = append(out.Body.Effects, e)
			continue
		}
		if err != nil {
			return nil, s.refused(ctx, err)
		}
		p, err := plan.CheckWith(u.doc, g.Catalog, defs, g.Calendar)
		if err == nil {
			var after *app.Answer
			if after, err = g.Run(ctx, u.doc, p); err == nil {
				e.Totals, e.Same = moved(before, &answer{after})
			}
		}
		if err != nil {
			e.Fault = sentence(strings.Split(err.Error(), "\n")[0])
		}
		out.Body.Effects = append(out.Body.Effects, e)
	}
	return out, nil
}

// moved compares the number of records, of groups, and the grand totals.
func moved(before, after *answer) (out []Moved, same bool) {
	out = []Moved{{"Records", fmt.Sprint(before.Kept), fmt.Sprint(after.Kept)}}
	if len(before.Plan.Groups) > 0 {
		out = append(out, Moved{"Groups", fmt.Sprint(before.Groups()), fmt.Sprint(after.Groups())})
	}
	figures := func(a *answer) (labels, cells []string) {
		grand := a.Pen(format.People).Cells(a.GrandTotal)
		for i, h := range a.Heads {
			if c := a.Plan.Columns[h.Column]; c.Measure >= 0 && len(h.Across) == 0 {
				labels, cells = append(labels, a.Label(h)), append(cells, grand[i])
			}
		}
		return labels, cells
	}
	labels, was := figures(before)
	_, is := figures(after)
	for i, label := range labels {
		if i < len(is) {
			out = append(out, Moved{label, was[i], is[i]})
		}
	}
	same = !slices.ContainsFunc(out, func(m Moved) bool { return m.Before != m.After })
	return out, same
}
