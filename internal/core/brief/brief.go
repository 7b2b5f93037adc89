// Package brief says a plan in one sentence, cut into phrases that each know
// which part of the view document they speak of. The sentence names everything
// that changes the numbers and nothing that does not.
package brief

import (
	"fmt"
	"maps"
	"slices"
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
	// Compare says what the totals are compared with, Made how a calculated field or
	// a bucket comes about.
	Compare Kind = "compare"
	Made    Kind = "made"
)

// Phrase is a run of the sentence.
type Phrase struct {
	Kind Kind
	Text string
	// Short is what the text folds to where room is short; empty where it does not.
	Short string
	// Path is the place in the document that the phrase edits; empty for Plain.
	Path string
	// Parameter is the question whose answer it says, if it is one.
	Parameter *view.Parameter
}

// Write says the plan. set is the plan's record set; doc is the document it was
// checked from, which holds operands as they were written.
func Write(p *plan.Plan, doc *view.Document, set *catalog.RecordSet) []Phrase {
	w := &writer{plan: p, doc: doc}
	w.add(Records, set.Label, "records")
	w.filter()
	w.groups(w.plan.Groups, "groups", ", grouped by ", " then ")
	w.groups(w.plan.Across, "across", ", across by ", " then ")
	w.totals()
	w.compare()
	w.columns()
	w.sorts()
	w.plain(".")
	w.made()
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
	said    map[string]bool // definitions that have had their sentence
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

func (w *writer) groups(groups []plan.Group, path, first, next string) {
	for i, g := range groups {
		w.plain([]string{first, next}[min(i, 1)])
		text := running(g.Label())
		switch {
		case g.Top == 1:
			text += " (the first, the rest as one)"
		case g.Top > 1:
			text += fmt.Sprintf(" (the first %d, the rest as one)", g.Top)
		}
		if g.Keep != nil {
			given := w.doc.Groups
			if path == "across" {
				given = w.doc.Across
			}
			text += " (" + w.kept(g.Keep, given[i].Keep) + ")"
		}
		if g.Empty {
			text += " with those without " + w.plan.Many
		}
		w.add(Group, text, fmt.Sprintf("%s[%d]", path, i))
	}
}

// kept says which groups of a level are kept by their total: "only those whose total fare is over
// 10,000, the others left out".
func (w *writer) kept(k *plan.Keep, given *view.Keep) string {
	total := "number of " + w.plan.Many
	if k.Measure >= 0 {
		total = w.plan.Measures[k.Measure].Label
	}
	text := "only the largest by " + running(total) + " that together make up " + given.Share + " %"
	if k.Test != nil {
		c := view.Condition{Op: given.Op, Value: given.Value, To: given.To}
		text = "only those whose " + running(total) + " " + w.words(k.Test, &c)
	}
	return text + pick(k.Out, ", the others left out", ", the others as one")
}

// compare says the other side of a comparison.
func (w *writer) compare() {
	c := w.plan.Compare
	if c == nil {
		return
	}
	text := c.Label
	if c.Dates != "" && c.Dates != c.Label {
		text += " (" + c.Dates + ")"
	}
	w.plain(", compared with ")
	w.add(Compare, text, "compare")
}

// made says how the fields come about that the view makes, a sentence each.
func (w *writer) made() {
	for _, one := range w.doc.Makes() {
		if text, short := w.comesAbout(w.plan.Derived[one.Key()], one.Made); text != "" {
			w.plain(" ")
			w.phrases = append(w.phrases, Phrase{Kind: Made, Text: text, Short: short, Path: one.At})
			w.plain(".")
		}
	}
	w.defined(w.plan)
}

// comesAbout says how a field comes about, of a long list in short as well; empty for one that
// the reader may not see.
func (w *writer) comesAbout(d *plan.Derived, one view.Made) (text, short string) {
	switch {
	case one.Calculated != nil:
		return one.Label() + " is " + strings.TrimSpace(strings.TrimPrefix(one.Calculated.Formula, "=")), ""
	case d == nil:
	case d.Bucket != nil:
		return banded(one.Label(), d.Bucket)
	case d.Linked != nil:
		return one.Label() + " is " + w.drawn(d.Linked, one.Linked), ""
	case d.Beside != nil:
		return one.Label() + " is " + w.beside(d.Beside, one.Beside), ""
	}
	return "", ""
}

// defined says how the definitions that the view uses come about, those of other records, too.
func (w *writer) defined(p *plan.Plan) {
	for _, path := range slices.Sorted(maps.Keys(p.Derived)) {
		d := p.Derived[path]
		if d.Definition == nil {
			continue
		}
		text, short := w.comesAbout(d, *d.Definition)
		if at := "definitions." + p.Records + "." + path; text != "" && !w.said[at] {
			if w.said == nil {
				w.said = map[string]bool{}
			}
			w.said[at] = true
			w.plain(" ")
			w.phrases = append(w.phrases, Phrase{Kind: Made, Text: text, Short: short, Path: at})
			w.plain(" for all views.")
		}
	}
	for _, other := range p.Others() {
		w.defined(other)
	}
}

// banded says what a bucket does, of many bands the first and the last; and, where that is much
// shorter, how many there are.
func banded(label string, b *plan.Bucket) (text, short string) {
	labels := make([]string, len(b.Bands))
	for i, band := range b.Bands {
		labels[i] = band.Label
	}
	n := len(labels)
	if n > 6 {
		labels = append(labels[:3:3], fmt.Sprintf("%d more", n-4), labels[n-1])
	}
	puts := fmt.Sprintf("%s puts %s into ", label, running(b.Of.Label))
	text, short = puts+view.Listed(labels, " and "), fmt.Sprintf("%s%d bands", puts, n)
	if len(text) <= len(short)+16 {
		short = ""
	}
	return text, short
}

// totals names every total that is shown, several of one field together: "total
// and average claimed".
func (w *writer) totals() {
	type group struct{ words, of, path string }
	var all []group
	joinable := false // the total before takes another beside it
	for _, c := range w.plan.Columns {
		if c.Measure < 0 {
			continue
		}
		m := w.plan.Measures[c.Measure]
		words, at := m.Words(), fmt.Sprintf("columns[%d]", c.Doc)
		if m.Fn == view.Records {
			all = append(all, group{"the number of", w.plan.Many, "columns"})
			continue
		}
		plain := m.Show == "" && m.By == nil && len(c.Levels) == 0 && m.Fn != view.Percentile
		if m.Show != "" {
			words = strings.TrimSpace(m.Show.Words() + " " + words)
		}
		before := joinable
		joinable = plain && m.Fn != view.Formula
		if before && joinable && !c.Values { // a further total of the column before
			all[len(all)-1].words += " and " + words
			continue
		}
		of := running(c.Ref.Label)
		if m.Fn == view.Distinct {
			of = catalog.Plural(of)
		}
		if m.Fn == view.Formula {
			of = running(c.Heading)
		}
		if m.By != nil {
			of += " (by " + running(m.By.Label) + ")"
		}
		if m.PerLinked {
			of += ", each " + m.Via + " once"
		}
		if m.Each != "" {
			of += ", every " + m.Each + " counted"
		}
		if len(c.Levels) > 0 {
			of += w.levels(c.Levels)
		}
		all = append(all, group{words, of, at})
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
		w.add(Totals, strings.TrimSpace(t.words+" "+t.of), t.path)
	}
}

// levels names the levels that a total is shown at.
func (w *writer) levels(levels []int) string {
	var names []string
	for _, l := range levels {
		name := "the grand total"
		if l > 0 {
			name = running(w.plan.Groups[l-1].Label())
		}
		names = append(names, name)
	}
	return " (only for " + view.Listed(names, " and ") + ")"
}

func (w *writer) columns() {
	shown := map[int]bool{} // of the document's columns; the reader may not see all of them
	for _, c := range w.plan.Columns {
		if c.Doc >= 0 {
			shown[c.Doc] = true
		}
	}
	w.plain(", showing ")
	switch n := len(shown); n {
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
		case view.ByList:
			w.plain(", ")
			w.add(Sort, running(g.Label())+" in a given order", fmt.Sprintf("groups[%d]", i))
			continue
		default:
			if !g.Order.Desc {
				continue
			}
			w.plain(", ")
			w.add(
				Sort, pick(g.Ref.Field.Type.Temporal(), "latest ", "last ")+running(g.Label())+" first",
				fmt.Sprintf("groups[%d]", i),
			)
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
