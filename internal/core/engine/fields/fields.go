// The fields of a plan as columns, for one job.

package fields

import (
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// Fields are those that a plan may speak of, for one job.
type Fields struct {
	*Source
	// Plan is the one whose fields they are. Rows is how many rows its set has, and Weights how many records
	// each stands for.
	Plan    *plan.Plan
	Rows    int
	Weights kernel.Weights

	job *work.Job
}

// Of are the fields of a plan.
func Of(job *work.Job, s *Source, p *plan.Plan) (*Fields, error) {
	rows, there := s.RowsOf(p.Records)
	if !there {
		return nil, fmt.Errorf("fields: the snapshot holds no record set %q", p.Records)
	}
	return &Fields{Source: s, Plan: p, Rows: rows, Weights: s.Snapshot.Tables[p.Records].Weights, job: job}, nil
}

// Records is how many records the plan's set has.
func (f *Fields) Records() int { return f.Weights.CountRows(kernel.Rows{N: f.Rows}) }

// Over are the fields of another plan over the same snapshot, for the same job.
func (f *Fields) Over(p *plan.Plan) (*Fields, error) { return Of(f.job, f.Source, p) }

// Column returns a field, stored or derived, as a column of the plan's record set.
func (f *Fields) Column(ref catalog.Ref) (table.Column, error) {
	d := f.Plan.Derived[ref.Path]
	if d == nil {
		return f.Source.Column(f.job.Ctx, f.Plan.Records, ref)
	}
	made, err := f.Derive(d)
	if err != nil {
		return nil, err
	}
	return made.Column, nil
}

// Linked returns, for each record, the row that a chain of links leads to, or -1; and the set
// it lies in.
func (f *Fields) Linked(links []string) ([]int32, string, error) {
	return f.Follow(f.job.Ctx, f.Plan.Records, links)
}

// InOwnSet is a field's column in the record set that holds it.
func (f *Fields) InOwnSet(ref catalog.Ref) (table.Column, error) {
	if d := f.Plan.Derived[ref.Path]; d != nil && d.There != nil {
		made, err := f.there(d)
		return made.Column, err
	}
	return f.Stored(ref.Set, ref.Field.Key)
}

// Currencies is the column at a path that names the currencies of amounts, or nil if it is no
// text.
func (f *Fields) Currencies(path string) (*table.Texts, error) {
	keys := strings.Split(path, ".")
	last := len(keys) - 1
	col, err := f.Column(catalog.Ref{
		Path: path, Links: keys[:last], Field: catalog.Field{Key: keys[last], Type: catalog.Text},
	})
	texts, _ := col.(*table.Texts)
	return texts, err
}

// Cell is a record's value.
func Cell(col table.Column, f catalog.Field, row int32) cell.Cell {
	switch c := col.(type) {
	case *table.Numbers:
		if v := c.Values[row]; v != table.Blank {
			return cell.OfInt(v, f)
		}
	case *table.Floats:
		return cell.OfFloat(c.Values[row])
	case *table.Texts:
		return cell.OfText(c.Dict.Value(c.Codes[row]), f)
	}
	return cell.Cell{}
}
