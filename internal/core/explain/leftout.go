package explain

import (
	"context"
	"strings"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Where groups were left out with their records, what lies around them holds fewer records than
// its own value tells: those of the groups within that stayed.

// mostStayed bounds how many groups are named.
const mostStayed = 20_000

// stayed names the groups within one that stayed, down to the last level that leaves any out.
type stayed struct {
	plan   *plan.Plan
	groups []plan.Group
	// within are the groups in one, of which path tells the place.
	within func(path any) (keys []result.Key, paths []any, err error)
	left   int
}

// leavingOut is the last level, counted from 1, that leaves groups out; 0 if none did.
func leavingOut(sum *result.Summary, groups []plan.Group) (level int) {
	if len(sum.LeftOut) == 0 {
		return 0
	}
	for i, g := range groups {
		if g.LeavesOut() {
			level = i + 1
		}
	}
	return level
}

// addStayed asks for the records of the groups that stayed within what is asked for already.
func (d *Records) addStayed(ctx context.Context, r result.Result, group string, across []result.Key) error {
	sum := r.Summarize()
	down := &stayed{plan: sum.Plan, groups: sum.Plan.Groups, left: mostStayed}
	down.within = func(path any) (keys []result.Key, paths []any, err error) {
		level := strings.Count(path.(string), result.PathSeparator) + 1
		of := result.Groups{Within: path.(string), Levels: level, Heads: []int{}}
		err = r.EachGroup(ctx, of, func(line result.GroupLine) error {
			if line.Level == level {
				keys, paths = append(keys, line.Keys[level-1]), append(paths, line.Group)
			}
			return nil
		})
		return keys, paths, err
	}
	if err := d.addAxis(down, group, len(d.Down), leavingOut(sum, sum.Plan.Groups)); err != nil {
		return err
	}
	turned := &stayed{plan: sum.Plan, groups: sum.Plan.Across, left: mostStayed}
	turned.within = func(path any) (keys []result.Key, paths []any, err error) {
		parent := path.([]result.Key)
		for _, key := range acrossOf(sum, parent) {
			keys, paths = append(keys, key), append(paths, append(parent[:len(parent):len(parent)], key))
		}
		return keys, paths, nil
	}
	return d.addAxis(turned, across, len(across), leavingOut(sum, sum.Plan.Across))
}

func (d *Records) addAxis(s *stayed, path any, level, last int) error {
	if last <= level {
		return nil
	}
	c, err := s.any(path, level, last)
	if err == nil {
		d.Conditions = append(d.Conditions, c)
	}
	return err
}

// any is what the records of the groups within one meet, down to a level.
func (s *stayed) any(path any, level, last int) (view.Condition, error) {
	keys, paths, err := s.within(path)
	if err != nil {
		return view.Condition{}, err
	}
	if s.left -= len(keys); s.left < 0 {
		return view.Condition{}, &result.LimitError{
			Step: "naming the groups that stayed takes too many conditions",
			Mend: "choose a single group, or join the others into the rest",
		}
	}
	parts := make([]view.Condition, 0, len(keys))
	for i, key := range keys {
		part := ofKey(s.plan, s.groups[level], key, keys)
		if level+1 < last {
			inner, err := s.any(paths[i], level+1, last)
			if err != nil {
				return view.Condition{}, err
			}
			part = view.Condition{All: []view.Condition{part, inner}}
		}
		parts = append(parts, part)
	}
	return oneOf(parts), nil
}

// oneOf is some conditions of which one must hold; values of one field stand in one list.
func oneOf(parts []view.Condition) view.Condition {
	var values view.Values
	for _, p := range parts {
		if p.Op != view.OneOf || p.Field != parts[0].Field {
			return view.Condition{Any: parts}
		}
		values = append(values, p.Values...)
	}
	if len(parts) == 0 {
		return view.Condition{None: []view.Condition{{All: []view.Condition{}}}} // nothing stayed
	}
	return view.Condition{Field: parts[0].Field, Op: view.OneOf, Values: values}
}
