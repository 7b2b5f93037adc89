// Package brief says a plan in one sentence, cut into phrases that each know
// which part of the view document they speak of. The sentence names everything
// that changes the numbers and nothing that does not.
package brief

import (
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// Kind is the part of the document a phrase speaks of.
type Kind string

// The kinds of phrases. Plain ones join the others.
const (
	Plain   Kind = "plain"
	Records Kind = "records"
	Filter  Kind = "filter"
	Group   Kind = "group"
	Totals  Kind = "totals"
	Columns Kind = "columns"
	Sort    Kind = "sort"
)

// Phrase is a run of the sentence.
type Phrase struct {
	Kind Kind
	Text string
	// Path is the place in the document that the phrase edits; empty for Plain.
	Path string
}

// Write says the plan. set is the plan's record set; doc is the document it was
// checked from, which holds operands as they were written.
func Write(p *plan.Plan, doc *view.Document, set *catalog.RecordSet) []Phrase {
	w := &writer{plan: p, doc: doc}
	w.add(Records, set.Label, "records")
	w.filter()
	w.groups()
	w.totals()
	w.columns()
	w.sorts()
	w.plain(".")
	return w.phrases
}

// Text joins the phrases to the sentence.
func Text(phrases []Phrase) string {
	var b strings.Builder
	for _, p := range phrases {
		b.WriteString(p.Text)
	}
	return b.String()
}

type writer struct {
	plan    *plan.Plan
	doc     *view.Document
	phrases []Phrase
}

func (w *writer) add(k Kind, text, path string) {
	w.phrases = append(w.phrases, Phrase{Kind: k, Text: text, Path: path})
}

// plain joins on to the plain text before it, if that is what came last.
func (w *writer) plain(text string) {
	if n := len(w.phrases); n > 0 && w.phrases[n-1].Kind == Plain {
		w.phrases[n-1].Text += text
		return
	}
	w.add(Plain, text, "")
}

func (w *writer) groups() {
	for i, g := range w.plan.Groups {
		w.plain([]string{", grouped by ", " then "}[min(i, 1)])
		w.add(Group, running(g.Label()), fmt.Sprintf("groups[%d]", i))
	}
}

// totals names every total that is shown, several of one field together: "total
// and average claimed".
func (w *writer) totals() {
	type group struct{ words, of, path string }
	var all []group
	for _, c := range w.plan.Columns {
		if c.Measure < 0 {
			continue
		}
		m := w.plan.Measures[c.Measure]
		words := m.Fn.Words(c.Ref.Field.Type)
		if !c.Values { // a further total of the column before
			all[len(all)-1].words += " and " + words
			continue
		}
		of := running(c.Ref.Label)
		if m.Fn == view.Distinct {
			of = plural(of)
		}
		if m.Once {
			of += ", each " + m.Ref.Via + " once"
		}
		all = append(all, group{words, of, fmt.Sprintf("columns[%d]", c.Doc)})
	}
	for i, t := range all {
		switch {
		case i == 0:
			w.plain(", with ")
		case i == len(all)-1:
			w.plain(" and ")
		default:
			w.plain(", ")
		}
		w.add(Totals, t.words+" "+t.of, t.path)
	}
}

func (w *writer) columns() {
	n := len(w.doc.Columns)
	w.plain(", showing ")
	switch n {
	case 0:
		w.add(Columns, "no columns", "columns")
	case 1:
		w.add(Columns, "1 column", "columns")
	default:
		w.add(Columns, fmt.Sprintf("%d columns", n), "columns")
	}
}

func (w *writer) sorts() {
	for i, g := range w.plan.Groups {
		text := ""
		switch g.Order.By {
		case view.ByCount:
			text = pick(g.Order.Desc, "most ", "fewest ") + w.plan.Many + " first"
		case view.ByTotal:
			m := w.plan.Measures[g.Order.Measure]
			if w.sortsAlike(m, g.Order.Desc) {
				continue // the records' own order says it
			}
			text = pick(g.Order.Desc, "largest ", "smallest ") + m.Label + " first"
		default:
			if !g.Order.Desc {
				continue
			}
			w.plain(", ")
			w.add(Sort, pick(g.Ref.Field.Type.Temporal(), "latest ", "last ")+running(g.Label())+" first", fmt.Sprintf("groups[%d]", i))
			continue
		}
		w.plain(", ")
		w.add(Sort, running(g.Label())+" with the "+text, fmt.Sprintf("groups[%d]", i))
	}
	for i, s := range w.plan.Sort {
		w.plain([]string{", ", " then "}[min(i, 1)])
		w.add(Sort, sortWords(s), "sort")
	}
}

// sortsAlike says whether the first sort key orders records as the measure
// orders groups.
func (w *writer) sortsAlike(m plan.Measure, desc bool) bool {
	return len(w.plan.Sort) > 0 && w.plan.Sort[0].Ref.Path == m.Ref.Path && w.plan.Sort[0].Desc == desc
}

func sortWords(s plan.Sort) string {
	t := s.Ref.Field.Type
	stem, _ := s.Ref.Stem()
	name := running(stem)
	switch {
	case t.Temporal():
		return pick(s.Desc, "latest ", "earliest ") + name + " first"
	case t == catalog.Duration:
		return pick(s.Desc, "longest ", "shortest ") + name + " first"
	case t.Numeric():
		return pick(s.Desc, "largest ", "smallest ") + name + " first"
	case t == catalog.YesNo:
		return name + pick(s.Desc, " yes first", " no first")
	}
	return name + pick(s.Desc, " from Z to A", " from A to Z")
}

func pick(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

// running is a label within a sentence.
func running(label string) string { return catalog.LowerFirst(label) }

// plural is a noun's plural by the plain rules of English.
func plural(noun string) string {
	switch {
	case strings.HasSuffix(noun, "s"), strings.HasSuffix(noun, "x"), strings.HasSuffix(noun, "ch"), strings.HasSuffix(noun, "sh"):
		return noun + "es"
	case strings.HasSuffix(noun, "y") && !strings.HasSuffix(noun, "ay") && !strings.HasSuffix(noun, "ey") && !strings.HasSuffix(noun, "oy"):
		return noun[:len(noun)-1] + "ies"
	}
	return noun + "s"
}
