package kept

import (
	"context"
	"fmt"
	"slices"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// look is after how many lines the reading of all of them looks up from its work.
const look = 1 << 12

// reading reads lines with some groups open.
type reading struct {
	*Result
	depth   int
	toggled map[int]bool
	// heads are the columns whose cells are filled, nil for those that a line shows.
	heads []int
}

func (k *Result) reading(open result.Open, heads []int) *reading {
	if k.noRecords() {
		open.Depth = min(open.Depth, len(k.sum.Plan.Groups)-1)
	}
	r := &reading{Result: k, depth: open.Depth, toggled: map[int]bool{}, heads: heads}
	for _, path := range open.Toggled {
		if at, ok := k.byPath[path]; ok && at > 0 {
			r.toggled[at] = true
		}
	}
	return r
}

// everyGroup has every group open.
func (k *Result) everyGroup(heads []int) *reading {
	r := k.reading(result.Open{}, heads)
	r.depth = len(k.sum.Plan.Groups)
	return r
}

func (r *reading) open(at int) bool {
	level := r.groups[at].Level
	if r.noRecords() && level == len(r.sum.Plan.Groups) {
		return false
	}
	return (level <= r.depth) != r.toggled[at]
}

// fills says whether the line of a group fills a cell.
func (r *reading) fills(head, level int) bool {
	if r.heads != nil {
		return slices.Contains(r.heads, head)
	}
	return r.sum.Plan.Columns[r.sum.Heads[head].Column].Shows(level)
}

// group writes the line of a group into cells, which are blank.
func (r *reading) group(at int, cells []cell.Cell) result.Line {
	g := r.groups[at]
	line := result.Line{
		Level: g.Level, Group: g.Path, Key: g.Key, Open: r.open(at), Count: g.Count, Others: g.Others, Cells: cells,
	}
	for i := range cells {
		if r.fills(i, g.Level) {
			cells[i] = r.figures[i].at(at)
		}
	}
	for _, m := range g.Mixes {
		if r.fills(m.Cell, g.Level) {
			line.Mixes = append(line.Mixes, m)
		}
	}
	for _, b := range g.Bars {
		if r.fills(b.Cell, g.Level) {
			line.Bars = append(line.Bars, b)
		}
	}
	return line
}

func (r *reading) newGroup(at int) result.Line {
	return r.group(at, make([]cell.Cell, len(r.sum.Heads)))
}

// record writes the line of a record into cells.
func (k *Result) record(row int, cells []cell.Cell) result.Line {
	for i := range cells {
		cells[i] = k.records[i].at(row)
	}
	return result.Line{
		Level: len(k.sum.Plan.Groups) + 1, IsRecord: true, Cells: cells, Record: k.addresses.at(row),
		Bars: k.bars[int32(row)],
	}
}

// Window returns limit lines from offset on.
func (k *Result) Window(ctx context.Context, open result.Open, offset, limit int) (result.Window, error) {
	out := result.Window{Offset: offset, Lines: []result.Line{}}
	if open.Depth < 0 {
		return out, nil
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	r, end, at := k.reading(open, nil), offset+limit, 0
	levels, bare := len(k.sum.Plan.Groups), k.noRecords()
	above := make([]int, levels+1)
	// enclosed notes the groups that the first line lies in: those of the levels above one.
	enclosed := func(level int) {
		for _, group := range above[1:level] {
			out.Above = append(out.Above, r.newGroup(group))
		}
	}
	for i, looked := 0, 0; i < len(k.groups); looked++ {
		if looked%look == 0 {
			if err := mine.Wait(ctx); err != nil {
				return out, kernel.Stopped(err)
			}
		}
		g := k.groups[i]
		above[g.Level] = i
		if g.Level > 0 {
			if at == offset && at < end {
				enclosed(g.Level)
			}
			if at >= offset && at < end {
				out.Lines = append(out.Lines, r.newGroup(i))
			}
			at++
			if !r.open(i) {
				i = g.Next
				continue
			}
		}
		if g.Level == levels && !bare {
			size := g.To - g.From
			if offset >= at && offset < at+size {
				enclosed(levels + 1)
			}
			for row := max(at, offset); row < min(at+size, end); row++ {
				out.Lines = append(out.Lines, k.record(g.From+row-at, make([]cell.Cell, len(k.sum.Heads))))
			}
			at += size
		}
		i++
	}
	out.Total = at
	return out, nil
}

// Group is the line of one group, by its path; that of the empty path is the grand total.
func (k *Result) Group(path string, heads []int) (result.GroupLine, error) {
	at, ok := k.byPath[path]
	if !ok {
		return result.GroupLine{}, &result.NotThereError{What: fmt.Sprintf("group %q any longer", path)}
	}
	return result.GroupLine{
		Line: k.everyGroup(heads).newGroup(at), Keys: k.keysTo(at), Counts: k.countsOf(at, nil),
	}, nil
}

// keysTo are the keys of a group and of those that it lies in, blank past its own level.
func (k *Result) keysTo(at int) []result.Key {
	keys := make([]result.Key, len(k.sum.Plan.Groups))
	for level := k.groups[at].Level; level > 0; level-- {
		keys[level-1] = k.groups[k.byPath[result.AncestorOf(k.groups[at].Path, level)]].Key
	}
	return keys
}

func (k *Result) countsOf(at int, counts []int) []int {
	if k.counts == nil {
		return nil
	}
	counts = counts[:0]
	for i := range k.counts {
		counts = append(counts, k.counts[i][at])
	}
	return counts
}

// EachGroup calls do for the groups asked for in the order shown, and last for the one that they
// lie in.
func (k *Result) EachGroup(ctx context.Context, of result.Groups, do func(result.GroupLine) error) error {
	within, ok := k.byPath[of.Within]
	if !ok {
		return &result.NotThereError{What: fmt.Sprintf("group %q any longer", of.Within)}
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	r, keys := k.everyGroup(of.Heads), k.keysTo(within)
	cells, counts := make([]cell.Cell, len(k.sum.Heads)), []int(nil)
	tell := func(at int) error {
		clear(cells)
		line := r.group(at, cells)
		if line.Level > 0 {
			keys[line.Level-1] = line.Key
		}
		clear(keys[line.Level:])
		counts = k.countsOf(at, counts)
		return do(result.GroupLine{Line: line, Keys: keys, Counts: counts})
	}
	deepest := of.Levels
	if deepest == 0 {
		deepest = len(k.sum.Plan.Groups)
	}
	end := k.groups[within].Next
	if k.groups[within].Level >= deepest {
		end = 0 // its parts are of no level asked for
	}
	for i, read := within+1, 0; i < end; read++ {
		if read%look == 0 {
			if err := mine.Wait(ctx); err != nil {
				return kernel.Stopped(err)
			}
		}
		if err := tell(i); err != nil {
			return err
		}
		if k.groups[i].Level >= deepest {
			i = k.groups[i].Next
		} else {
			i++
		}
	}
	return tell(within)
}

// EachRecord calls do for every record in the order shown, with the groups that it lies in.
func (k *Result) EachRecord(
	ctx context.Context, do func(groups []result.Key, cells []cell.Cell) error,
) error {
	switch {
	case k.bare:
		return &result.NotThereError{What: "record in what is shared for its totals alone"}
	case len(k.sum.Plan.Across) > 0:
		return &result.NotThereError{What: "record in a crosstab that was kept; it holds its groups and totals"}
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	keys, cells := make([]result.Key, len(k.sum.Plan.Groups)), make([]cell.Cell, len(k.sum.Heads))
	for _, g := range k.groups {
		if g.Level > 0 {
			keys[g.Level-1] = g.Key
		}
		if g.Level != len(keys) {
			continue
		}
		for row := g.From; row < g.To; row++ {
			if row%look == 0 {
				if err := mine.Wait(ctx); err != nil {
					return kernel.Stopped(err)
				}
			}
			k.record(row, cells)
			if err := do(keys, cells); err != nil {
				return err
			}
		}
	}
	return nil
}

// EachLine calls do for every line with these groups open, in the order shown.
func (k *Result) EachLine(ctx context.Context, open result.Open, do func(result.Line) error) error {
	if open.Depth < 0 {
		return nil
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	r := k.reading(open, nil)
	r.depth = open.Depth
	cells, told := make([]cell.Cell, len(k.sum.Heads)), 0
	tell := func(l result.Line) error {
		if told++; told%look == 0 {
			if err := mine.Wait(ctx); err != nil {
				return kernel.Stopped(err)
			}
		}
		return do(l)
	}
	for i := 0; i < len(k.groups); {
		g := k.groups[i]
		if g.Level > 0 {
			clear(cells)
			if err := tell(r.group(i, cells)); err != nil {
				return err
			}
			if !r.open(i) {
				i = g.Next
				continue
			}
		}
		if g.Level == len(k.sum.Plan.Groups) && !k.noRecords() {
			for row := g.From; row < g.To; row++ {
				if err := tell(k.record(row, cells)); err != nil {
					return err
				}
			}
		}
		i++
	}
	return nil
}

// Counted is not known any more: the values that went into a figure are gone.
func (k *Result) Counted(context.Context, string, int, int) (int, error) { return -1, nil }

var _ result.Result = (*Result)(nil)
