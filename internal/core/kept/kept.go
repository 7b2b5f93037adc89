// Package kept holds results as they were at a moment: all that a result says of records, groups and
// totals, as plain data that can be written down, and read back as a result.
package kept

import (
	"context"
	"fmt"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// Result is a result as it was. It never changes; any goroutine may read it.
type Result struct {
	sum result.Summary
	// groups are the groups of all levels in the order shown, each before those in it; the first is
	// the grand total.
	groups []group
	// figures are the groups' cells, records those of the records in the order shown, both by head.
	figures, records []column
	// addresses are what the records are opened by.
	addresses column
	rows      int
	// bars are those behind cells of records, by record.
	bars map[int32][]result.Bar
	// counts are how many records each cell of a crosstab is taken of, by head; nil elsewhere.
	counts [][]int
	// bare says that its groups are told of without their records.
	bare bool

	byPath map[string]int
}

// group is one group. What its lines show of its figures follows from the plan.
type group struct {
	Level         int
	Path          string
	Key           result.Key
	Count, Others int
	// Next is the place of the group behind all that is in this one; From and To are those of its records.
	Next     int
	From, To int
	Mixes    []result.Mix
	Bars     []result.Bar
}

// TooManyError says that a result has more records than are kept.
type TooManyError struct{ Records, Most int }

func (e *TooManyError) Error() string {
	return fmt.Sprintf("it has %d records, and %d at most are kept; keep fewer records", e.Records, e.Most)
}

// block is how many lines of a result are read at a time.
const block = 8192

// Of reads a whole result, of so many records at most.
func Of(ctx context.Context, r result.Result, most int) (*Result, error) {
	sum := r.Summarize()
	if sum.Kept > most {
		return nil, &TooManyError{sum.Kept, most}
	}
	k := &Result{
		sum: *sum, figures: make([]column, len(sum.Heads)), records: make([]column, len(sum.Heads)),
		bars: map[int32][]result.Bar{},
	}
	if err := k.readGroups(ctx, r); err != nil {
		return nil, err
	}
	if err := k.readRecords(ctx, r); err != nil {
		return nil, err
	}
	return k, k.ready()
}

// readGroups reads the groups; the grand total, which comes last, is put first.
func (k *Result) readGroups(ctx context.Context, r result.Result) error {
	all := make([]int, len(k.sum.Heads))
	for i := range all {
		all[i] = i
	}
	grand, err := r.Group("", all)
	if err != nil {
		return err
	}
	k.add(grand)
	return r.EachGroup(ctx, result.Groups{Heads: all}, func(g result.GroupLine) error {
		if g.Level > 0 {
			k.add(g)
		}
		return nil
	})
}

// add adds a group.
func (k *Result) add(g result.GroupLine) {
	k.groups = append(k.groups, group{
		Level: g.Level, Path: g.Line.Group, Key: g.Key, Count: g.Count, Others: g.Others,
		Mixes: append([]result.Mix(nil), g.Mixes...), Bars: append([]result.Bar(nil), g.Bars...),
	})
	for i, c := range g.Cells {
		k.figures[i].add(c)
	}
	if g.Counts != nil {
		if k.counts == nil {
			k.counts = make([][]int, len(k.sum.Heads))
		}
		for i, n := range g.Counts {
			k.counts[i] = append(k.counts[i], n)
		}
	}
}

// noRecords says that lines of records are never shown: in a crosstab there are none, and of groups that are
// told of by themselves they are not known.
func (k *Result) noRecords() bool { return k.bare || len(k.sum.Plan.Across) > 0 }

// readRecords reads the records with the groups open.
func (k *Result) readRecords(ctx context.Context, r result.Result) error {
	if len(k.sum.Plan.Across) > 0 {
		return nil // a crosstab shows none
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	open := result.Open{Depth: len(k.sum.Plan.Groups)}
	for offset := 0; ; offset += block {
		if err := mine.Wait(ctx); err != nil {
			return kernel.Stopped(err)
		}
		w, err := r.Window(ctx, open, offset, block)
		if err != nil {
			return err
		}
		for _, l := range w.Lines {
			if !l.IsRecord {
				continue
			}
			for i, c := range l.Cells {
				k.records[i].add(c)
			}
			k.addresses.add(l.Record)
			if len(l.Bars) > 0 {
				k.bars[int32(k.rows)] = l.Bars
			}
			k.rows++
		}
		if offset+block >= w.Total {
			return nil
		}
	}
}

// Bare is a result of groups without records. The groups come in the order shown, each before those in it, and
// the grand total first; heads of the summary are those of their cells.
func Bare(sum result.Summary, groups []result.GroupLine) (*Result, error) {
	k := &Result{sum: sum, figures: make([]column, len(sum.Heads)), records: make([]column, len(sum.Heads)), bare: true}
	for _, g := range groups {
		k.add(g)
	}
	return k, k.ready()
}

// ready finds what is in each group from their order, and checks that all of it fits together.
func (k *Result) ready() error {
	levels := len(k.sum.Plan.Groups)
	broken := func(what string) error { return fmt.Errorf("kept: the result does not hold together: %s", what) }
	if len(k.groups) == 0 || k.groups[0].Level != 0 {
		return broken("no grand total")
	}
	records := k.rows
	if k.noRecords() {
		records = 0
	}
	for i := range k.sum.Heads {
		if !k.figures[i].whole(len(k.groups)) || !k.records[i].whole(records) ||
			k.counts != nil && len(k.counts[i]) != len(k.groups) {
			return broken("a column")
		}
	}
	if !k.addresses.whole(records) {
		return broken("what records are opened by")
	}
	k.byPath = make(map[string]int, len(k.groups))
	open, row := []int{}, 0 // the groups that are not over yet
	close := func(level, at int) {
		for len(open) > 0 && k.groups[open[len(open)-1]].Level >= level {
			g := &k.groups[open[len(open)-1]]
			g.Next, g.To, open = at, row, open[:len(open)-1]
		}
	}
	for i := range k.groups {
		g := &k.groups[i]
		close(g.Level, i)
		if g.Level != len(open) || g.Level > levels || g.Count < 0 {
			return broken("a group")
		}
		g.From = row
		k.byPath[g.Path] = i
		open = append(open, i)
		if g.Level == levels {
			row += g.Count
		}
	}
	close(0, len(k.groups))
	if records > 0 && row != records {
		return broken("its records")
	}
	return nil
}

// Summarize is what the result says as a whole.
func (k *Result) Summarize() *result.Summary { return &k.sum }

// Rows is how many records it holds; a crosstab holds none.
func (k *Result) Rows() int { return k.rows }

// Bytes estimates the memory that it holds.
func (k *Result) Bytes() int64 {
	n := int64(4096) + 160*int64(len(k.groups)) + k.addresses.bytes()
	for i := range k.figures {
		n += k.figures[i].bytes() + k.records[i].bytes()
	}
	return n + 64*int64(len(k.bars))
}
