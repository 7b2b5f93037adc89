// The commonest value of a group, and how many records have it.

package aggregation

import (
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
)

// mode finds every node's commonest value, of several as common the first in order, and how
// many records have it. Like the different values, it cannot be joined from part to whole:
// each node's values are counted from its records.
func (w *measuring) mode(f *Aggregates, col table.Column) error {
	placed := w.placed()
	k, err := numbering.Values(w.job, numbering.InOrder(col), placed)
	if err != nil {
		return err
	}
	if err := w.job.Need(8*int64(k.Card), "counting the "+w.measure.Label); err != nil {
		return err
	}
	nodes := len(w.tree.Nodes)
	common := make([]uint32, nodes) // the number of each node's commonest value; 0 for none
	f.Times = make([]int64, nodes)
	count := make([]int64, k.Card) // of each value in the node at hand
	buf := make([]uint32, kernel.BlockRows)
	each := func(node int, do func(key uint32, at int)) error {
		for lo, end := int(w.side.Start[node]), int(w.side.End[node]); lo < end; lo += kernel.BlockRows {
			if err := w.job.Stopped(); err != nil {
				return err
			}
			for i, key := range k.At(placed, lo, min(lo+kernel.BlockRows, end), buf) {
				if key != 0 {
					do(key, lo+i)
				}
			}
		}
		return nil
	}
	add := func(key uint32, _ int) { count[key]++ }
	if weights := w.side.Weights; weights != nil {
		add = func(key uint32, at int) { count[key] += weights[placed.At(at)] }
	}
	for node := range nodes {
		err := each(node, add)
		if err != nil {
			return err
		}
		err = each(node, func(key uint32, _ int) {
			n := count[key]
			count[key] = 0 // it is looked at once, and ready for the next node
			if n > f.Times[node] || n > 0 && n == f.Times[node] && key < common[node] {
				common[node], f.Times[node] = key, n
			}
		})
		if err != nil {
			return err
		}
	}
	f.read(k, common)
	return nil
}

// read fills the figures with the values that numbers stand for.
func (f *Aggregates) read(k *numbering.Keys, keys []uint32) {
	switch {
	case k.Dict != nil:
		f.Dict, f.Codes = k.Dict, keys
	case k.Floats != nil:
		f.Floats = make([]float64, len(keys))
		for i, key := range keys {
			f.Floats[i] = k.Float(key)
		}
	default:
		f.Numbers = make([]int64, len(keys))
		for i, key := range keys {
			f.Numbers[i] = k.Number(key)
		}
	}
}
