// Totals calculated from totals.

package aggregation

import (
	"math/bits"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/table"
)

// formula works a total that is calculated from totals out, for every node: the
// program runs over the nodes as over records.
func (w *Aggregator) formula(f *Aggregates) error {
	inputs := make([]table.Column, len(f.Measure.Args))
	for i, arg := range f.Measure.Args {
		of, err := w.Total(arg)
		if err != nil {
			return err
		}
		inputs[i] = of.Column()
	}
	nodes, step := len(w.tree.Nodes), "working out the "+f.Measure.Label
	made, err := fields.Calculate(w.job, w.fields.Plan.Calendar, f.Measure.Formula, inputs, nodes, step)
	if err != nil {
		return err
	}
	switch c := made.Column.(type) {
	case *table.Numbers:
		f.Numbers = c.Values
	case *table.Floats:
		f.Floats = c.Values
	case *table.Texts:
		f.Dict, f.Codes = c.Dict, c.Codes
	}
	for reason, marked := range made.Failed.Rows {
		for _, word := range marked {
			f.Failed[reason] += bits.OnesCount64(word)
		}
	}
	return nil
}
