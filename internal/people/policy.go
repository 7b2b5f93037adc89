package people

import (
	"slices"

	"gavrik/internal/core/access"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// PolicyOf is what a person does not see: what any of her groups keeps from its members,
// and the sensitive fields, unless one of them may see those. An administrator sees
// everything, as she could give herself any right.
func PolicyOf(p store.Person, groups []store.Group, sensitive []store.SensitiveField) access.Policy {
	out := access.Policy{}
	if p.Administrator() {
		return out
	}
	mayAll := false
	for _, g := range groups {
		if !slices.ContainsFunc(p.Groups, func(of store.GroupName) bool { return of.ID == g.ID }) {
			continue
		}
		mayAll = mayAll || g.Sensitive
		for _, l := range g.Limits {
			limit := access.Restriction{Hidden: l.Hidden, Totals: l.Totals, Fields: l.Fields}
			if len(l.Rule) > 0 {
				limit.Rules = append(limit.Rules, ruleFor(p, l))
			}
			out.Add(l.Set, limit)
		}
	}
	if !mayAll {
		for _, f := range sensitive {
			out.Add(f.Set, access.Restriction{Fields: []string{f.Field}})
		}
	}
	return out
}

// ruleFor is a rule with its questions answered by the person's traits. What cannot be
// read or answered is left open, so that the rule keeps nothing: in doubt, less is seen.
func ruleFor(p store.Person, l store.Limit) *view.Document {
	doc, err := view.Parse(l.Rule)
	if err != nil {
		return &view.Document{Records: ""} // no rule on this set: it keeps nothing
	}
	open, answers := map[string]string{}, map[string]string{}
	for _, q := range doc.Parameters() {
		q.Parameter.Required = true
		open[q.Parameter.Name], answers[q.Parameter.Name] = "", p.Traits[q.Parameter.Name]
	}
	if doc.Answer(answers) != nil {
		_ = doc.Answer(open) // these are its own questions, all without an answer
	}
	return doc
}
