package page

import (
	"context"
	"fmt"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Input is what is laid out.
type Input struct {
	Result  result.Result
	Table   Table
	Paper   *view.Paper // nil is as usual
	Words   Words
	Metrics Metrics
	// Chart stands above the table; nil for none.
	Chart *chart.Chart
}

// Words are what stands above and below the table. What is empty is left out, as is what the
// set-up leaves out.
type Words struct {
	Letterhead      *Letterhead // nil for none
	Title, Subtitle string
	Lines           []string
	Brief           string
	// Conditions are those built into the view; Answers what was answered this time, each a
	// question and its answer.
	Conditions []string
	Answers    [][2]string
	// Moment is that of the records, Made when the pages are made.
	Moment, Made, Author string
	// Count says how many records there are; Notes are what a reader has to know.
	Count string
	Notes []string
}

// Letterhead is whose paper it is.
type Letterhead struct {
	Name    string
	Address []string
	// Logo is a picture as a data: address, or empty; Ratio is its width to its height.
	Logo  string
	Ratio float64
}

// Pages is a result that was laid out. It belongs to one goroutine, as its metrics do.
type Pages struct {
	*layout
	// Count is how many pages there are.
	Count int
}

// layout is what is known before pages are filled.
type layout struct {
	Input
	sum     *result.Summary
	sheet   sheet
	columns []column
	label   labelColumn
	// leading columns are those that names of groups run over, names the width that they have.
	leading int
	names   float64
	// folds are the columns of each of the pages that stand beside each other, xs where they
	// begin.
	folds [][]int
	xs    [][]float64
	lines int
	heads []headingRow
}

// Lay measures a result and counts its pages.
func Lay(ctx context.Context, in Input) (*Pages, error) {
	if in.Paper == nil {
		in.Paper = &view.Paper{}
	}
	l := &layout{Input: in, sum: in.Result.Summarize(), sheet: sheetOf(in.Paper)}
	if err := l.measure(ctx); err != nil {
		return nil, err
	}
	if err := l.fit(); err != nil {
		return nil, err
	}
	l.headings()
	p := &Pages{layout: l}
	err := p.fill(ctx, func(Page) error {
		if p.Count++; p.Count > MaxPages {
			return &Error{fmt.Sprintf(
				"%s lines are more than %s pages; close a level of groups, or keep fewer records",
				format.Thousands(fmt.Sprint(l.lines)), format.Thousands(fmt.Sprint(MaxPages)),
			)}
		}
		return nil
	})
	return p, err
}

// Each calls do for the pages from one to another, both counted from 1 and included.
func (p *Pages) Each(ctx context.Context, from, to int, do func(Page) error) error {
	return p.fill(ctx, func(page Page) error {
		if page.Number < from {
			return nil
		}
		if page.Number > to {
			return errDone
		}
		page.Of = p.Count
		p.foot(&page)
		return do(page)
	})
}

// Beside are the headings of the columns on each of the pages that stand beside each other; of
// one, if all fit.
func (p *Pages) Beside() [][]string {
	var out [][]string
	for _, fold := range p.folds {
		var names []string
		for _, i := range fold {
			names = append(names, p.columns[i].Heading[p.Table.Own])
		}
		out = append(out, names)
	}
	return out
}

// Size is that of the type, which is smaller than set up where columns were made to fit.
func (p *Pages) Size() float64 { return p.sheet.size }

// Lines is how many lines of groups and records there are, without the grand total's.
func (p *Pages) Lines() int { return p.lines }

// has says whether a part stands on the pages.
func (l *layout) has(part view.PaperPart) bool { return !l.Paper.Leaves(part) }
