// Totals of linked records, each counted once for a group.

package aggregation

import (
	"math"

	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// distinct counts the different values of every node. They cannot be joined from
// part to whole: each node's are counted from its records, which lie side by side
// in the placed order.
func (w *measuring) distinct(f *Aggregates, col table.Column) error {
	placed := w.placed()
	k, err := numbering.Values(w.job, col, placed)
	if err != nil {
		return err
	}
	f.Numbers = make([]int64, len(w.tree.Nodes))
	seen := make([]int32, k.Card) // the last node that had the value, plus 1
	buf := make([]uint32, kernel.BlockRows)
	for i := range w.tree.Nodes {
		mark := int32(i) + 1
		count := int64(0)
		for lo, end := int(w.side.Start[i]), int(w.side.End[i]); lo < end; lo += kernel.BlockRows {
			if err := w.job.Stopped(); err != nil {
				return err
			}
			for _, key := range k.At(placed, lo, min(lo+kernel.BlockRows, end), buf) {
				if key != 0 && seen[key] != mark {
					seen[key] = mark
					count++
				}
			}
		}
		f.Numbers[i] = count
	}
	return nil
}

// ownRows says that the values of linked records, each counted once, are read where they
// were worked out: from any record that leads there. They are the same from each.
func (w *measuring) ownRows() bool { return len(w.measure.Links) > len(w.measure.Ref.Links) }

// eachLinked calls do with every node's linked records, each once, by the rows that
// valuesColumn has them in.
func (w *measuring) eachLinked(do func(node int, rows []int32)) error {
	link, set, err := w.fields.Linked(w.measure.Links)
	if err != nil {
		return err
	}
	n, _ := w.fields.RowsOf(set) // the links lead there
	seen := make([]int32, n)
	var rows []int32
	placed, own := w.placed(), w.ownRows()
	for i := range w.tree.Nodes {
		rows = rows[:0]
		for at := int(w.side.Start[i]); at < int(w.side.End[i]); at++ {
			if at%kernel.BlockRows == 0 {
				if err := w.job.Stopped(); err != nil {
					return err
				}
			}
			row := placed.At(at)
			to := link[row]
			switch {
			case to < 0 && own: // it belongs to no linked record, and stands for itself
				rows = append(rows, row)
			case to < 0 || seen[to] == int32(i)+1:
			default:
				seen[to] = int32(i) + 1
				if own {
					to = row
				}
				rows = append(rows, to)
			}
		}
		do(i, rows)
	}
	return nil
}

// valuesColumn is the column of the values that go in: of the linked records
// themselves where they count once.
func (w *measuring) valuesColumn() (table.Column, error) {
	if !w.measure.PerLinked || w.ownRows() {
		return w.fields.Column(w.measure.Ref)
	}
	return w.fields.InOwnSet(w.measure.Ref)
}

// sumPerLinked sums or averages the values of linked records, each counted once.
func (w *measuring) sumPerLinked(f *Aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	f.Counted = make([]int64, len(w.tree.Nodes))
	if c, ok := col.(*table.Floats); ok {
		f.Floats = make([]float64, len(w.tree.Nodes))
		return w.eachLinked(func(node int, rows []int32) {
			var sum float64
			for _, row := range rows {
				if v := c.Values[row]; v == v {
					sum += v
					f.Counted[node]++
				}
			}
			f.Floats[node] = math.NaN()
			if n := f.Counted[node]; n > 0 && w.measure.Fn == view.Average {
				f.Floats[node] = sum / float64(n)
			} else if n > 0 {
				f.Floats[node] = sum
			}
		})
	}
	c := col.(*table.Numbers)
	s := &sums{nodes: make([]kernel.Int128, len(w.tree.Nodes)), counted: f.Counted}
	err = w.eachLinked(func(node int, rows []int32) {
		for _, row := range rows {
			if v := c.Values[row]; v != table.Blank {
				s.nodes[node] = s.nodes[node].Plus(kernel.Wide(v))
				s.counted[node]++
			}
		}
	})
	w.finish(f, s)
	return err
}

// eachValues calls do with every node's values that are not blank, of records or
// of linked records once. do may move them about.
func eachValues[T int64 | float64](
	w *measuring, vals []T, isBlank func(T) bool, do func(node int, of []T),
) error {
	if w.measure.PerLinked {
		var of []T
		return w.eachLinked(func(node int, rows []int32) {
			of = of[:0]
			for _, row := range rows {
				if v := vals[row]; !isBlank(v) {
					of = append(of, v)
				}
			}
			do(node, of)
		})
	}
	placed, starts, ends, err := placeValues(w, vals, isBlank)
	if err != nil {
		return err
	}
	// Values may be moved within a node's range, which is its parts': the innermost
	// groups come first, while each still has its own.
	for i := len(w.tree.Nodes) - 1; i >= 0; i-- {
		if err := w.job.Stopped(); err != nil {
			return err
		}
		do(i, placed[starts[i]:ends[i]])
	}
	return nil
}

// placeValues writes the values that are not blank in the order of the innermost
// groups, and says where each node's lie. Values are read as they stand in the
// table and written to as many places as there are groups, which is faster than
// reading them from all over the table.
func placeValues[T int64 | float64](
	w *measuring, vals []T, isBlank func(T) bool,
) (placed []T, starts, ends []int32, err error) {
	nodes, first := len(w.tree.Nodes), w.tree.First()
	starts, ends = make([]int32, nodes), make([]int32, nodes)
	err = work.Pass(w.job, vals, w.side.Rows, func(at int, vals []T) {
		for i, v := range vals {
			if !isBlank(v) {
				ends[first+int(w.side.Leaf[at+i])]++
			}
		}
	})
	if err != nil {
		return nil, nil, nil, err
	}
	at := int32(0)
	for i := first; i < nodes; i++ {
		n := ends[i]
		starts[i], ends[i] = at, at
		at += n
	}
	if err := w.job.Need(8*int64(at), "working out the "+w.measure.Label); err != nil {
		return nil, nil, nil, err
	}
	placed = make([]T, at)
	err = work.Pass(w.job, vals, w.side.Rows, func(at int, vals []T) {
		for i, v := range vals {
			if !isBlank(v) {
				end := &ends[first+int(w.side.Leaf[at+i])]
				placed[*end] = v
				*end++
			}
		}
	})
	w.tree.Spread(starts, ends)
	return placed, starts, ends, err
}
