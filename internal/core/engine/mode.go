package engine

import (
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
)

// mode finds every node's commonest value, of several as common the first in order, and how
// many records have it. Like the different values, it cannot be joined from part to whole:
// each node's values are counted from its records.
func (w *aggregation) mode(f *aggregates, col table.Column) error {
	placed := w.placed()
	k, err := w.numberValues(inOrder(col), placed)
	if err != nil {
		return err
	}
	if err := w.need(4*int64(k.card), "counting the "+w.measure.Label); err != nil {
		return err
	}
	nodes := len(w.tree.nodes)
	common := make([]uint32, nodes) // the number of each node's commonest value; 0 for none
	f.times = make([]int32, nodes)
	count := make([]int32, k.card) // of each value in the node at hand
	buf := make([]uint32, kernel.BlockRows)
	each := func(node int, do func(key uint32)) error {
		for lo, end := int(w.side.start[node]), int(w.side.end[node]); lo < end; lo += kernel.BlockRows {
			if err := w.stopped(); err != nil {
				return err
			}
			for _, key := range k.at(placed, lo, min(lo+kernel.BlockRows, end), buf) {
				if key != 0 {
					do(key)
				}
			}
		}
		return nil
	}
	for node := range nodes {
		if err := each(node, func(key uint32) { count[key]++ }); err != nil {
			return err
		}
		err := each(node, func(key uint32) {
			n := count[key]
			count[key] = 0 // it is looked at once, and ready for the next node
			if n > f.times[node] || n > 0 && n == f.times[node] && key < common[node] {
				common[node], f.times[node] = key, n
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
func (f *aggregates) read(k *levelKeys, keys []uint32) {
	switch {
	case k.dict != nil:
		f.dict, f.codes = k.dict, keys
	case k.floats != nil:
		f.floats = make([]float64, len(keys))
		for i, key := range keys {
			f.floats[i] = k.float(key)
		}
	default:
		f.numbers = make([]int64, len(keys))
		for i, key := range keys {
			f.numbers[i] = k.number(key)
		}
	}
}
