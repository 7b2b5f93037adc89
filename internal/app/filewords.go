package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/records"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// SayOf says of a record set what its file and whoever brought it in call things, where the names of
// its table do not; and its links.
func SayOf(
	ctx context.Context, s *store.Store, who string, b store.BroughtIn, job FileJob, how BringingIn,
) error {
	all, err := s.Descriptions(ctx)
	if err != nil {
		return err
	}
	now := store.Described{Set: b.Set, Body: &description.SetWords{}}
	if i := slices.IndexFunc(all, func(d store.Described) bool { return d.Set == b.Set }); i >= 0 {
		now = all[i]
	}
	words := *now.Body
	if job.Into == "" {
		words = *wordsOf(b.Set, how.Name, how.One)
	}
	addWords(&words, &job.Recipe, job.Into == "")
	_, err = s.Describe(ctx, who, b.Set, now.Version, &words)
	return err
}

// wordsOf are what a new record set is called.
func wordsOf(set, name, one string) *description.SetWords {
	w := &description.SetWords{}
	many := catalog.LowerFirst(name)
	if name != catalog.LabelOf(set) {
		w.Label, w.Many = name, many
	}
	plain := records.Singular(catalog.LowerFirst(catalog.LabelOf(set)))
	if one = cmp.Or(one, records.Singular(many)); one != plain {
		w.One = one
	}
	return w
}

// addWords adds what a recipe calls its fields, and its links, unless people said something else.
func addWords(w *description.SetWords, r *files.Recipe, fresh bool) {
	for _, f := range r.Taken() {
		if f.Label == catalog.LabelOf(f.Key) || w.Fields[f.Key] != nil && !fresh {
			continue
		}
		if w.Fields == nil {
			w.Fields = map[string]*description.FieldWords{}
		}
		w.Fields[f.Key] = &description.FieldWords{Label: f.Label}
	}
	for _, l := range r.Links {
		stem := strings.TrimSuffix(files.KeyOf(l.To, "link"), "s")
		key := stem
		for n := 2; r.Field(key) != nil || w.Links[key] != nil; n++ {
			key = fmt.Sprintf("%s_%d", stem, n)
		}
		leads := &description.Leads{To: l.To, By: []string{l.By}, Into: []string{l.Into}}
		if w.Links == nil {
			w.Links = map[string]*description.LinkWords{}
		}
		there := false
		for _, have := range w.Links {
			there = there || have.Leads != nil && have.Leads.To == l.To && slices.Equal(have.Leads.By, leads.By)
		}
		if !there {
			w.Links[key] = &description.LinkWords{Leads: leads}
		}
	}
}
