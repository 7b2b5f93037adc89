package web

import "gavrik/internal/core/view"

// restrictedIn names what a record set has and the reader does not see.
func restrictedIn(g *requestScope, set string) []string {
	out := []string{}
	of := g.Catalog.Set(set).Restricted
	for _, f := range of.Fields {
		out = append(out, f.Label)
	}
	for _, l := range of.Links {
		out = append(out, l.Label)
	}
	return out
}

// ruleWords says which records a rule keeps.
func ruleWords(g *requestScope, rule []byte) string {
	doc, err := view.Parse(rule)
	if err != nil {
		return sentence(err.Error())
	}
	return filterWords(g, doc)
}
