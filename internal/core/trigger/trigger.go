// Package trigger says whether what recurs happens at all: only if there are records, if a figure
// passes a bound, if something has changed. Triggers are plain data.
package trigger

import (
	"errors"
	"fmt"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// On is what a trigger looks at.
type On string

// What a trigger can look at.
const (
	Records On = "records" // the view keeps some
	Figure  On = "figure"  // a total of all of them is past a bound
	Changed On = "changed" // the result is another one than the last time
)

// Past says on which side of the bound a figure has to be.
type Past string

// The sides; the bound itself is on neither.
const (
	Over  Past = "over"
	Under Past = "under"
)

// Trigger is one condition; the zero value is always met.
type Trigger struct {
	On On `json:"on,omitempty" enum:"records,figure,changed," doc:"What it looks at; nothing, if left out: it is always met"`
	// Field and Fn name the total; without a field, the figure is the count of records.
	Field string  `json:"field,omitempty" maxLength:"400" doc:"With figure: the field whose total is looked at; the count of records, if left out"`
	Fn    view.Fn `json:"fn,omitempty" maxLength:"40" doc:"With figure: which total of that field"`
	Is    Past    `json:"is,omitempty" enum:"over,under," doc:"With figure: on which side of the bound it has to be"`
	Bound string  `json:"bound,omitempty" maxLength:"60" doc:"With figure: a number, or a duration as 1:30"`
}

// Check says what is wrong with a trigger of a view.
func (t Trigger) Check(p *plan.Plan) error {
	switch t.On {
	case "", Records, Changed:
		if t.Field != "" || t.Fn != "" || t.Is != "" || t.Bound != "" {
			return errors.New("only a figure has a bound")
		}
		return nil
	case Figure:
	default:
		return fmt.Errorf("%q is nothing to look at", t.On)
	}
	if t.Is != Over && t.Is != Under {
		return errors.New("say whether the figure has to be over or under the bound")
	}
	f := catalog.Field{Type: catalog.Whole}
	if t.Field != "" {
		column := t.column(p)
		if column < 0 {
			return errors.New("the view shows no such total any more; choose another figure")
		}
		m := p.Measures[p.Columns[column].Measure]
		if f = m.Result(); !f.Type.Numeric() {
			return fmt.Errorf("%s is no number that could pass a bound", m.Label)
		}
	}
	if f.Type == catalog.Duration {
		_, err := plan.ParseDuration(t.Bound)
		return err
	}
	_, err := plan.ParseNumber(t.Bound, f.Scale)
	return err
}

// column is the plan's column that shows the total, or -1.
func (t Trigger) column(p *plan.Plan) int {
	return slices.IndexFunc(p.Columns, func(c plan.Column) bool {
		return c.Measure >= 0 && c.Ref.Path == t.Field && p.Measures[c.Measure].Fn == t.Fn &&
			p.Measures[c.Measure].Show == ""
	})
}

// Words say a trigger of a view: "if Fare paid, sum is over 1,000".
func (t Trigger) Words(p *plan.Plan) string {
	switch t.On {
	case Records:
		return "if there are " + p.Many
	case Changed:
		return "if something has changed since the last time"
	case Figure:
		name := "the number of " + p.Many
		if column := t.column(p); t.Field != "" && column >= 0 {
			name = p.Measures[p.Columns[column].Measure].Label
		}
		return fmt.Sprintf("if %s is %s %s", name, t.Is, t.Bound)
	}
	return ""
}

// Met says whether a result meets the trigger, and what it was found to be. The result of the last
// time and this one are told apart by what before and now say of them; an empty before is another one.
func (t Trigger) Met(s *result.Summary, before, now string) (met bool, found string, err error) {
	switch t.On {
	case Records:
		return s.Kept > 0, counted(s), nil
	case Changed:
		if before != now {
			return true, "something has changed", nil
		}
		return false, "nothing has changed", nil
	case Figure:
		return t.figure(s)
	}
	return true, "", nil
}

func counted(s *result.Summary) string {
	n := format.NewWriter(format.People, s.Plan.Calendar).Number(int64(s.Kept), catalog.Field{Type: catalog.Whole})
	if s.Kept == 1 {
		return n + " " + s.Plan.One
	}
	return n + " " + s.Plan.Many
}

func (t Trigger) figure(s *result.Summary) (bool, string, error) {
	if t.Field == "" {
		met, err := t.past(cell.Cell{Kind: cell.Number, Int: int64(s.Kept)})
		return met, counted(s), err
	}
	column := t.column(s.Plan)
	for i, h := range s.Heads {
		if h.Column != column || h.Part != result.Own || len(h.Across) > 0 {
			continue
		}
		found, name := s.GrandTotal.Cells[i], s.TotalLabel(h)
		if found.Kind == cell.Several {
			return false, "", fmt.Errorf(
				"%s is in several currencies, which have no one figure; keep one currency", name,
			)
		}
		met, err := t.past(found)
		text := s.Pen(format.People).Figure(i, found)
		if text == "" {
			text = "blank"
		}
		return met, name + ": " + text, err
	}
	return false, "", errors.New("the view shows no such total any more; choose another figure")
}

// past says whether a figure is past the bound; a blank never is.
func (t Trigger) past(c cell.Cell) (bool, error) {
	var over, under bool
	switch c.Kind {
	case cell.Number:
		bound, err := plan.ParseNumber(t.Bound, int(c.Scale))
		if err != nil {
			return false, err
		}
		over, under = c.Int > bound.Hi, c.Int < bound.Lo
	case cell.Duration:
		bound, err := plan.ParseDuration(t.Bound)
		if err != nil {
			return false, err
		}
		over, under = c.Int > bound, c.Int < bound
	case cell.Approximate:
		bound, err := plan.ParseFloat(t.Bound)
		if err != nil {
			return false, err
		}
		over, under = c.Float() > bound, c.Float() < bound
	}
	if t.Is == Over {
		return over, nil
	}
	return under, nil
}
