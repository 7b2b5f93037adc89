package pgreader

import (
	"context"
	"errors"
	"slices"
	"sync"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// answered is a result whose groups and totals are there, and whose records are asked for when somebody looks
// at them: all at once where they are few, else those of a group, or a stretch of them.
type answered struct {
	result.Result
	of *question

	mu sync.Mutex // protects following fields; one asks for all records at a time
	// records are all, once they are asked for so.
	records result.Result
	// lists are those of groups, by their paths, and that of the empty path without groups.
	lists map[string]*list
}

// mostLists is of how many groups the records are kept that somebody has looked at.
const mostLists = 20

// inStretches says that records are asked for by groups and stretches: they are many, and each can be told
// without the others.
func (a *answered) inStretches() bool {
	a.mu.Lock()
	whole := a.records != nil
	a.mu.Unlock()
	p := a.of.plan
	if whole || a.Summarize().Kept <= a.of.opts.Few || p.Compare != nil || len(p.Across) > 0 ||
		p.SingleRecords() {
		return false
	}
	return !slices.ContainsFunc(p.Columns, func(c plan.Column) bool { return c.Bars }) // measured against all
}

// list is that of a group, or without groups of all records.
func (a *answered) list(ctx context.Context, path string) (*list, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if l := a.lists[path]; l != nil {
		return l, nil
	}
	group, err := a.Group(path, []int{})
	if err != nil {
		return nil, err
	}
	within, err := groupsTo(ctx, a.Result, group)
	if err != nil {
		return nil, err
	}
	if len(a.lists) >= mostLists {
		a.lists = nil
	}
	if a.lists == nil {
		a.lists = map[string]*list{}
	}
	a.lists[path] = newList(a.of, within, group.Count)
	return a.lists[path], nil
}

// onlyWhole says that an error is one of what can be asked for of all records alone.
func onlyWhole(err error) bool {
	var not *undecided
	return errors.As(err, &not) || errors.Is(err, errUndecided)
}

// whole is the result with its records: all that the filter keeps, with the fields that are shown of them.
func (a *answered) whole(ctx context.Context) (result.Result, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.records != nil {
		return a.records, nil
	}
	q := a.of.question(a.of.plan)
	q.oneByOne, q.shown = true, true
	res, err := asking(ctx, q.answer)
	if err == nil {
		a.records, a.lists = res, nil
	}
	return res, err
}

func (a *answered) Window(ctx context.Context, open result.Open, offset, limit int) (result.Window, error) {
	w, err := a.Result.Window(ctx, open, offset, limit)
	if err != nil || !slices.ContainsFunc(w.Lines, func(l result.Line) bool { return l.IsRecord }) {
		return w, err
	}
	if a.inStretches() {
		if err := a.fill(ctx, w.Lines); !onlyWhole(err) {
			return w, err
		}
	}
	of, err := a.whole(ctx)
	if err != nil {
		return w, err
	}
	return of.Window(ctx, open, offset, limit)
}

// fill puts records in the place of lines that say theirs.
func (a *answered) fill(ctx context.Context, lines []result.Line) error {
	for i := 0; i < len(lines); {
		if !lines[i].IsRecord {
			i++
			continue
		}
		path, first, end := lines[i].Group, lines[i].Count, i+1
		for end < len(lines) && lines[end].IsRecord && lines[end].Group == path {
			end++
		}
		l, err := a.list(ctx, path)
		if err == nil {
			err = l.each(ctx, first, first+end-i, func(line result.Line) error {
				lines[i] = line
				i++
				return nil
			})
		}
		if err != nil {
			return err
		}
		for ; i < end; i++ { // they are gone meanwhile
			lines[i] = result.Line{Level: lines[i].Level, IsRecord: true}
			lines[i].Cells = make([]cell.Cell, len(a.Summarize().Heads))
		}
	}
	return nil
}

// EachRecord calls do for every record, in the order shown.
func (a *answered) EachRecord(
	ctx context.Context, do func(groups []result.Key, cells []cell.Cell) error,
) error {
	deepest, told := len(a.of.plan.Groups), false
	if a.inStretches() && a.of.tellsGroups() {
		err := a.EachGroup(ctx, result.Groups{Heads: []int{}}, func(of result.GroupLine) error {
			if of.Level != deepest {
				return nil
			}
			l, err := a.list(ctx, of.Group)
			if err != nil {
				return err
			}
			return l.each(ctx, 0, of.Count, func(line result.Line) error {
				told = true
				return do(of.Keys, line.Cells)
			})
		})
		if told || !onlyWhole(err) {
			return err
		}
	}
	of, err := a.whole(ctx)
	if err != nil {
		return err
	}
	return of.EachRecord(ctx, do)
}

// EachLine calls do for every line, in the order shown.
func (a *answered) EachLine(ctx context.Context, open result.Open, do func(result.Line) error) error {
	if open.Depth < len(a.of.plan.Groups) && len(open.Toggled) == 0 {
		return a.Result.EachLine(ctx, open, do)
	}
	if a.inStretches() && a.of.tellsGroups() {
		told := false
		err := a.Result.EachLine(ctx, open, func(line result.Line) error {
			if !line.IsRecord {
				told = true
				return do(line)
			}
			l, err := a.list(ctx, line.Group)
			if err != nil {
				return err
			}
			return l.each(ctx, 0, line.Count, func(line result.Line) error {
				told = true
				return do(line)
			})
		})
		if told || !onlyWhole(err) {
			return err
		}
	}
	of, err := a.whole(ctx)
	if err != nil {
		return err
	}
	return of.EachLine(ctx, open, do)
}

// Bytes estimates the memory that the result holds.
func (a *answered) Bytes() int64 {
	a.mu.Lock()
	defer a.mu.Unlock()
	n := a.Result.Bytes()
	if a.records != nil {
		n += a.records.Bytes()
	}
	for _, l := range a.lists {
		n += l.bytes()
	}
	return n
}
