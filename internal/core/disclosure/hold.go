package disclosure

import (
	"context"
	"fmt"
	"slices"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/kept"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Refused says why nothing of a result can be told, and what would help.
type Refused struct{ Why string }

func (e *Refused) Error() string { return e.Why }

// MaxGroups is how many groups a result may have of which totals alone are told.
const MaxGroups = 50_000

// Hold takes out of a result whatever is of fewer than least records. The result is that of what Counting made
// of a document; p is the plan of the document itself.
func Hold(ctx context.Context, r result.Result, p *plan.Plan, least int) (*kept.Result, error) {
	sum := r.Summarize()
	switch {
	case len(p.Across) > 1:
		return nil, &Refused{"a crosstab with several levels across is not shown by its totals alone; keep one level across"}
	case len(p.Across) > 0 && p.Compare != nil:
		return nil, &Refused{"a crosstab that compares is not shown by its totals alone; leave out one of the two"}
	case few(sum.Kept, least) || few(sum.Others, least):
		return nil, &Refused{fmt.Sprintf("it is of fewer than %d %s, so none of its totals is shown", least, p.Many)}
	case sum.Groups() > MaxGroups:
		return nil, &Refused{fmt.Sprintf("it has more than %d groups; fewer can be shown by their totals alone", MaxGroups)}
	}
	h := &holder{Summary: sum, plan: p, least: least, paths: map[string]bool{}, missing: map[string]bool{}, heldAcross: map[string]bool{}}
	if err := h.read(ctx, r); err != nil {
		return nil, err
	}
	h.chooseTotals()
	h.chooseAcross()
	h.chooseChart()
	h.weigh()
	h.write(0)
	return kept.Bare(h.summary(), h.out)
}

// words say what is held back.
func (h *holder) words() (out []string) {
	if h.groups > 0 {
		out = append(out, fmt.Sprintf("%d %s held back: fewer than %d %s, or what would tell of so few",
			h.groups, counted(h.groups, "group is", "groups are"), h.least, h.plan.Many))
	}
	if n := len(h.heldAcross); n > 0 {
		out = append(out, fmt.Sprintf("%d %s held back: fewer than %d %s, or what would tell of so few",
			n, counted(n, "column is", "columns are"), h.least, h.plan.Many))
	}
	for _, label := range h.untold {
		out = append(out, fmt.Sprintf("%s is not told: it would tell of single %s", label, h.plan.Many))
	}
	return out
}

func counted(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// few says whether a number of records is too small to be told: none is not.
func few(n, least int) bool { return n > 0 && n < least }

// line is a group with what decides whether it is told.
type line struct {
	result.GroupLine
	next int // behind all that is in it
	// weights are how many records, and values, its figures are taken of, in one order for all lines.
	weights []int
}

type holder struct {
	*result.Summary
	plan  *plan.Plan
	least int
	lines []line
	// heads are the columns that are told, paths the fields that go into their totals, and missing those of
	// which it is told how many records have none.
	heads          []int
	paths, missing map[string]bool
	// heldAcross are the groups across whose columns are held back.
	heldAcross map[string]bool
	untold     []string
	groups     int
	out        []result.GroupLine
}

// read reads all groups, the grand total first.
func (h *holder) read(ctx context.Context, r result.Result) error {
	all := make([]int, len(h.Heads))
	for i := range all {
		all[i] = i
	}
	add := func(g result.GroupLine) {
		g.Cells, g.Keys, g.Counts = slices.Clone(g.Cells), slices.Clone(g.Keys), slices.Clone(g.Counts)
		g.Mixes, g.Bars, g.Key.Gone = nil, nil, nil
		h.lines = append(h.lines, line{GroupLine: g})
	}
	grand, err := r.Group("", all)
	if err != nil {
		return err
	}
	add(grand)
	err = r.EachGroup(ctx, result.Groups{Heads: all}, func(g result.GroupLine) error {
		if g.Level > 0 {
			add(g)
		}
		return nil
	})
	if err != nil {
		return err
	}
	var open []int
	closeTo := func(level, at int) {
		for len(open) > 0 && h.lines[open[len(open)-1]].Level >= level {
			h.lines[open[len(open)-1]].next, open = at, open[:len(open)-1]
		}
	}
	for i := range h.lines {
		closeTo(h.lines[i].Level, i)
		open = append(open, i)
	}
	closeTo(0, len(h.lines))
	return nil
}

// own says whether a head is of the document's own columns, and not one that counts.
func (h *holder) own(head int) bool { return h.Heads[head].Column < len(h.plan.Columns) }

// pathOf is the field that a counting head counts.
func (h *holder) pathOf(head int) string { return h.Plan.Columns[h.Heads[head].Column].Ref.Path }

// counts says whether a head counts the values of a field, of either side of a comparison.
func (h *holder) counts(head int) bool {
	part := h.Heads[head].Part
	return !h.own(head) && (part == result.Own || part == result.Other)
}

// number is the count in a cell.
func (l *line) number(head int) int { return int(l.Cells[head].Int) }

// weightsOf are what the figures of a counting head's field are taken of in a line: the records that have a value
// and, where that is told, those that have none.
func (h *holder) weightsOf(l *line, head int) []int {
	n := l.number(head)
	if !h.missing[h.pathOf(head)] {
		return []int{n}
	}
	all := l.Count
	switch of := h.Heads[head]; {
	case of.Part == result.Other:
		all = l.Others
	case len(of.Across) > 0:
		all = l.Counts[head]
	}
	return []int{n, all - n}
}

// tellsMissing says whether a measure tells how many records have no value: by itself, or beside their number.
func (h *holder) tellsMissing(measure int) bool {
	m := h.plan.Measures[measure]
	switch {
	case m.Show != "":
		return h.tellsMissing(m.Of)
	case m.Formula != nil:
		return slices.ContainsFunc(m.Args, h.tellsMissing)
	}
	return m.Fn == view.CountFilled || m.Fn == view.Blanks
}

// chooseTotals decides which totals are told at all: not those that are one record's own value, nor those of
// which there are too few values among all records, nor those of several currencies.
func (h *holder) chooseTotals() {
	scarce, full := map[string]bool{}, map[string]bool{}
	for i := range h.Heads {
		if !h.counts(i) || len(h.Heads[i].Across) > 0 {
			continue
		}
		grand, n := &h.lines[0], h.lines[0].number(i)
		all := grand.Count
		if h.Heads[i].Part == result.Other {
			all = grand.Others
		}
		scarce[h.pathOf(i)] = scarce[h.pathOf(i)] || few(n, h.least)
		full[h.pathOf(i)] = full[h.pathOf(i)] || few(all-n, h.least)
	}
	seen := map[int]bool{}
	for i, head := range h.Heads {
		if !h.own(i) {
			continue
		}
		measure := h.plan.Columns[head.Column].Measure
		if measure < 0 {
			continue // values of records
		}
		of := pathsOf(h.plan, measure)
		told := tellable(h.plan, measure) && !slices.ContainsFunc(of, func(path string) bool {
			return scarce[path] || full[path] && h.tellsMissing(measure)
		}) &&
			!slices.ContainsFunc(h.lines, func(l line) bool { return l.Cells[i].Kind == cell.Several })
		if !told {
			if !seen[head.Column] {
				h.untold = append(h.untold, h.plan.Measures[measure].Label)
			}
			seen[head.Column] = true
			continue
		}
		h.heads = append(h.heads, i)
		for _, path := range of {
			h.paths[path] = true
			h.missing[path] = h.missing[path] || h.tellsMissing(measure)
		}
	}
	// A column is told whole or not at all, whichever of its sides is the one that cannot be.
	h.heads = slices.DeleteFunc(h.heads, func(i int) bool { return seen[h.Heads[i].Column] })
}

// chooseAcross decides which columns of a crosstab are held back: those of few records, and with them the
// smallest of the others until all of them together are of enough.
func (h *holder) chooseAcross() {
	grand := &h.lines[0]
	weights := map[string][]int{}
	var leaves []string
	for i, head := range h.Heads {
		path := head.AcrossPath
		if len(head.Across) == 0 {
			continue
		}
		if weights[path] == nil {
			leaves = append(leaves, path)
			weights[path] = []int{grand.Counts[i]}
		}
		if h.counts(i) && h.paths[h.pathOf(i)] {
			weights[path] = append(weights[path], h.weightsOf(grand, i)...)
		}
	}
	all := make([][]int, len(leaves))
	for i, path := range leaves {
		all[i] = weights[path]
	}
	for at, held := range hold(all, h.least) {
		if held {
			h.heldAcross[leaves[at]] = true
		}
	}
	h.heads = slices.DeleteFunc(h.heads, func(i int) bool { return h.heldAcross[h.Heads[i].AcrossPath] })
}

// chooseChart leaves the chart out if its total is not told.
func (h *holder) chooseChart() {
	c := h.plan.Chart
	if c == nil || c.Column < 0 || slices.ContainsFunc(h.heads, func(i int) bool { return h.Heads[i].Column == c.Column }) {
		return
	}
	without, p := *c, *h.plan
	without.Column, without.Missing = -1, "The total that is drawn is not told here; choose another."
	p.Chart, h.plan = &without, &p
}

// weigh counts for every line what its figures are taken of; of columns that are held back, all together.
func (h *holder) weigh() {
	for at := range h.lines {
		l := &h.lines[at]
		l.weights = []int{l.Count, l.Others}
		heldCounts, seen := map[string]int{}, map[string]bool{}
		for i, head := range h.Heads {
			if h.counts(i) && h.paths[h.pathOf(i)] {
				for n, w := range h.weightsOf(l, i) {
					if h.heldAcross[head.AcrossPath] {
						heldCounts[fmt.Sprint(n, h.pathOf(i), head.Part)] += w
					} else {
						l.weights = append(l.weights, w)
					}
				}
			}
			if l.Counts == nil || len(head.Across) == 0 || seen[head.AcrossPath] {
				continue
			}
			seen[head.AcrossPath] = true
			if h.heldAcross[head.AcrossPath] {
				heldCounts[""] += l.Counts[i]
			} else {
				l.weights = append(l.weights, l.Counts[i])
			}
		}
		if len(h.heldAcross) == 0 {
			continue
		}
		l.weights = append(l.weights, heldCounts[""])
		for i := range h.Heads { // in one order for all lines
			if h.counts(i) && h.paths[h.pathOf(i)] && len(h.Heads[i].Across) == 0 {
				for n := range h.weightsOf(l, i) {
					l.weights = append(l.weights, heldCounts[fmt.Sprint(n, h.pathOf(i), h.Heads[i].Part)])
				}
			}
		}
	}
}

// write tells a line and what is in it, as far as it may be told.
func (h *holder) write(at int) {
	l := &h.lines[at]
	h.out = append(h.out, h.told(l.GroupLine, l.Key, l.Line.Group))
	var children []int
	for i := at + 1; i < l.next; i = h.lines[i].next {
		children = append(children, i)
	}
	weights := make([][]int, len(children))
	for i, child := range children {
		weights[i] = h.lines[child].weights
	}
	together, several := result.GroupLine{Line: result.Line{Level: l.Level + 1}, Keys: l.Keys}, 0
	for i, held := range hold(weights, h.least) {
		if !held {
			h.write(children[i])
			continue
		}
		several++
		together.Count += h.lines[children[i]].Count
		together.Others += h.lines[children[i]].Others
	}
	if several == 0 {
		return
	}
	h.groups += several
	together.Cells = make([]cell.Cell, len(h.Heads))
	if l.Counts != nil {
		together.Counts = make([]int, len(h.Heads))
	}
	path := l.Line.Group + result.PathSeparator + result.PathHeld
	h.out = append(h.out, h.told(together, result.Key{Held: several}, path))
}

// told is a line with the columns that are told.
func (h *holder) told(g result.GroupLine, key result.Key, path string) result.GroupLine {
	out := result.GroupLine{Line: g.Line}
	out.Key, out.Line.Group, out.Cells = key, path, nil
	for _, i := range h.heads {
		out.Cells = append(out.Cells, g.Cells[i])
		if g.Counts != nil {
			out.Counts = append(out.Counts, g.Counts[i])
		}
	}
	return out
}

// summary is what the result says as a whole: nothing of single conditions, values or records.
func (h *holder) summary() result.Summary {
	out := result.Summary{
		Held: h.words(), NoRecords: true,
		Plan: h.plan, AsOf: h.AsOf, All: h.Kept, Kept: h.Kept, Others: h.Others, GrandTotal: h.out[0].Line,
		Levels: make([]int, len(h.plan.Groups)),
	}
	for _, i := range h.heads {
		head := h.Heads[i]
		head.Mixed = 0
		out.Heads = append(out.Heads, head)
	}
	for _, l := range h.out[1:] {
		if l.Key.Held == 0 {
			out.Levels[l.Level-1]++
		}
	}
	return out
}

// hold chooses which of several parts of one whole are held back, by what they are taken of: those with a
// weight that is too small and, of the others, the smallest, until every weight of all those held is of enough
// records, or of none.
func hold(weights [][]int, least int) (held []bool) {
	var sum []int
	held = make([]bool, len(weights))
	take := func(at int) {
		held[at] = true
		if sum == nil {
			sum = make([]int, len(weights[at]))
		}
		for i, w := range weights[at] {
			sum[i] += w
		}
	}
	for at, w := range weights {
		if slices.ContainsFunc(w, func(n int) bool { return few(n, least) }) {
			take(at)
		}
	}
	for {
		next := -1
		for at, w := range weights {
			if !held[at] && helps(w, sum, least) && (next < 0 || w[0] < weights[next][0]) {
				next = at
			}
		}
		if next < 0 {
			break // it is enough; or all of them are held, and the whole itself is told, so it is of enough
		}
		take(next)
	}
	return held
}

// helps says whether a part adds to a sum that is too small.
func helps(weights, sum []int, least int) bool {
	for i, n := range sum {
		if few(n, least) && weights[i] > 0 {
			return true
		}
	}
	return false
}
