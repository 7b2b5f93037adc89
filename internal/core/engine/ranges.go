package engine

import (
	"math"

	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// The measures here cannot be joined from part to whole. Each is worked out from
// the records of every node, which lie side by side in the placed order.

// distinct counts the different values of every node.
func (w *worker) distinct(f *figures, col table.Column) error {
	k, err := numberValues(w.ctx, col, w.placed(), w.e.opts.Workers)
	if err != nil {
		return err
	}
	f.numbers = make([]int64, len(w.tree.nodes))
	seen := make([]int32, k.card) // the last node that had the value, plus 1
	for i, n := range w.tree.nodes {
		for _, key := range k.keys[n.start:n.end] {
			if key != k.blank() && seen[key] != int32(i)+1 {
				seen[key] = int32(i) + 1
				f.numbers[i]++
			}
		}
	}
	return nil
}

// eachLinked calls do with every node's linked records, each once, by their rows
// in their own table.
func (w *worker) eachLinked(do func(node int, rows []int32)) error {
	link, set, err := w.e.follow(w.plan.Records, w.measure.Ref.Links)
	if err != nil {
		return err
	}
	seen := make([]int32, w.e.snap.Tables[set].Rows)
	var once []int32
	placed := w.placed()
	for i, n := range w.tree.nodes {
		once = once[:0]
		for _, row := range placed[n.start:n.end] {
			if to := link[row]; to >= 0 && seen[to] != int32(i)+1 {
				seen[to] = int32(i) + 1
				once = append(once, to)
			}
		}
		do(i, once)
	}
	return nil
}

// valuesColumn is the column of the values that go in: of the linked records
// themselves where they count once.
func (w *worker) valuesColumn() (table.Column, error) {
	if !w.measure.Once {
		return w.e.column(w.plan.Records, w.measure.Ref)
	}
	_, set, err := w.e.follow(w.plan.Records, w.measure.Ref.Links)
	if err != nil {
		return nil, err
	}
	return w.e.stored(set, w.measure.Ref.Field.Key)
}

// once sums or averages the values of linked records, each counted once.
func (w *worker) once(f *figures) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	f.counted = make([]int32, len(w.tree.nodes))
	if c, ok := col.(*table.Floats); ok {
		f.floats = make([]float64, len(w.tree.nodes))
		return w.eachLinked(func(node int, rows []int32) {
			var sum float64
			for _, row := range rows {
				if v := c.Values[row]; v == v {
					sum += v
					f.counted[node]++
				}
			}
			f.floats[node] = math.NaN()
			if n := f.counted[node]; n > 0 && w.measure.Fn == view.Average {
				f.floats[node] = sum / float64(n)
			} else if n > 0 {
				f.floats[node] = sum
			}
		})
	}
	c := col.(*table.Numbers)
	sums := make([]int128, len(w.tree.nodes))
	err = w.eachLinked(func(node int, rows []int32) {
		for _, row := range rows {
			if v := c.Values[row]; v != table.Blank {
				sums[node] = sums[node].plus(wide(v))
				f.counted[node]++
			}
		}
	})
	w.finish(f, sums)
	return err
}

// median finds the middle value of every node, or the mean of the middle two.
func (w *worker) median(f *figures) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	f.counted = make([]int32, len(w.tree.nodes))
	if c, ok := col.(*table.Floats); ok {
		f.floats = make([]float64, len(w.tree.nodes))
		return eachMedian(w, c.Values, math.IsNaN, func(node, n int, lower, upper float64) {
			f.counted[node], f.floats[node] = int32(n), math.NaN()
			if n > 0 {
				f.floats[node] = lower/2 + upper/2
			}
		})
	}
	f.numbers = make([]int64, len(w.tree.nodes))
	shift := pow10(f.field.Scale - w.measure.Ref.Field.Scale)
	isBlank := func(v int64) bool { return v == table.Blank }
	return eachMedian(w, col.(*table.Numbers).Values, isBlank, func(node, n int, lower, upper int64) {
		f.counted[node], f.numbers[node] = int32(n), table.Blank
		if n == 0 {
			return
		}
		mean, ok := averageOf(wide(lower).plus(wide(upper)), 2, shift)
		if !ok {
			f.tooLarge++
			return
		}
		f.numbers[node] = mean
	})
}

// eachMedian calls do with how many values every node has and the middle two.
func eachMedian[T int64 | float64](w *worker, vals []T, isBlank func(T) bool, do func(node, n int, lower, upper T)) error {
	report := func(node int, of []T) {
		var lower, upper T
		if len(of) > 0 {
			lower, upper = middle(of)
		}
		do(node, len(of), lower, upper)
	}
	if w.measure.Once {
		var of []T
		return w.eachLinked(func(node int, rows []int32) {
			of = of[:0]
			for _, row := range rows {
				if v := vals[row]; !isBlank(v) {
					of = append(of, v)
				}
			}
			report(node, of)
		})
	}
	placed, starts, ends := placeValues(w, vals, isBlank)
	// Selection moves values about within a node's range, which is its children's:
	// the innermost groups come first, while each still has its own.
	for i := len(w.tree.nodes) - 1; i >= 0; i-- {
		report(i, placed[starts[i]:ends[i]])
	}
	return nil
}

// placeValues writes the values that are not blank in the order of the innermost
// groups, and says where each node's lie. Values are read as they stand in the
// table and written to as many places as there are groups, which is faster than
// reading them from all over the table.
func placeValues[T int64 | float64](w *worker, vals []T, isBlank func(T) bool) (placed []T, starts, ends []int32) {
	nodes, first := len(w.tree.nodes), w.leaves()
	starts, ends = make([]int32, nodes), make([]int32, nodes)
	for i, row := range w.rows {
		if !isBlank(vals[row]) {
			ends[first+int(w.tree.leaf[i])]++
		}
	}
	at := int32(0)
	for i := first; i < nodes; i++ {
		n := ends[i]
		starts[i], ends[i] = at, at
		at += n
	}
	placed = make([]T, at)
	for i, row := range w.rows {
		if v := vals[row]; !isBlank(v) {
			end := &ends[first+int(w.tree.leaf[i])]
			placed[*end] = v
			*end++
		}
	}
	for i := nodes - 1; i > 0; i-- { // the last child met is the first
		p := w.tree.nodes[i].parent
		starts[p], ends[p] = starts[i], max(ends[p], ends[i])
	}
	return placed, starts, ends
}
