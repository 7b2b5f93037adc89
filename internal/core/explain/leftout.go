package explain

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Where groups were left out with their records, what lies around them holds fewer records than
// its own value tells: those of the groups within that stayed.

// mostStayed bounds how many groups are named.
const mostStayed = 20_000

// stayed names the groups within one that stayed, down to the last level that leaves any out. P
// tells the place of a group on its axis.
type stayed[P any] struct {
	plan   *plan.Plan
	groups []plan.Group
	// within are the groups in one, and their places.
	within func(place P) (keys []result.Key, places []P, err error)
	last   int
	left   int // how many more groups may be named
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
	down := &stayed[string]{
		plan: sum.Plan, groups: sum.Plan.Groups, last: leavingOut(sum, sum.Plan.Groups), left: mostStayed,
		within: func(group string) (keys []result.Key, groups []string, err error) {
			level := strings.Count(group, result.PathSeparator) + 1
			of := result.Groups{Within: group, Levels: level, Heads: []int{}}
			err = r.EachGroup(ctx, of, func(line result.GroupLine) error {
				if line.Level == level {
					keys, groups = append(keys, line.Keys[level-1]), append(groups, line.Group)
				}
				return nil
			})
			return keys, groups, err
		},
	}
	turned := &stayed[[]result.Key]{
		plan: sum.Plan, groups: sum.Plan.Across, last: leavingOut(sum, sum.Plan.Across), left: mostStayed,
		within: func(parent []result.Key) (keys []result.Key, groups [][]result.Key, err error) {
			keys = acrossOf(sum, parent)
			for _, key := range keys {
				groups = append(groups, append(slices.Clone(parent), key))
			}
			return keys, groups, nil
		},
	}
	var err error
	if d.Conditions, err = down.addTo(d.Conditions, group, len(d.Down)); err != nil {
		return err
	}
	d.Conditions, err = turned.addTo(d.Conditions, across, len(across))
	return err
}

// addTo adds what the records of the groups within one meet, if any were left out there.
func (s *stayed[P]) addTo(conditions []view.Condition, place P, level int) ([]view.Condition, error) {
	if s.last <= level {
		return conditions, nil
	}
	c, err := s.any(place, level)
	return append(conditions, c), err
}

// any is what the records of the groups within one meet, down to the last level.
func (s *stayed[P]) any(place P, level int) (view.Condition, error) {
	keys, places, err := s.within(place)
	if err != nil {
		return view.Condition{}, err
	}
	if s.left -= len(keys); s.left < 0 {
		return view.Condition{}, &result.LimitError{
			Step: "naming the groups that stayed takes too many conditions",
			Mend: "choose a single group, or join the others into the rest",
		}
	}
	parts := make([]view.Condition, len(keys))
	for i, key := range keys {
		parts[i] = ofKey(s.plan, s.groups[level], key, keys)
		if level+1 == s.last {
			continue
		}
		inner, err := s.any(places[i], level+1)
		if err != nil {
			return view.Condition{}, err
		}
		parts[i] = view.Condition{All: []view.Condition{parts[i], inner}}
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
