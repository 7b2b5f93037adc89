package chart

import (
	"cmp"
	"slices"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// level is the groups along an axis or of the series; equal ones of several parents are one.
type level struct {
	group plan.Group
	depth int // from 1, among the groups down or across
	spots []spot
	index map[int]int // of the spots, by Key.Place
}

// spot is a group of a level.
type spot struct {
	place int // its Key.Place
	size  float64
}

func newLevel(groups []plan.Group, depth int) *level {
	return &level{group: groups[depth-1], depth: depth, index: map[int]int{}}
}

// at finds a group's spot, or makes it.
func (l *level) at(k result.Key) *spot {
	i, known := l.index[k.Place]
	if !known {
		i = len(l.spots)
		l.index[k.Place], l.spots = i, append(l.spots, spot{place: k.Place})
	}
	return &l.spots[i]
}

// arrange puts the spots in the order of their values along time and where parents differ;
// else they stand as in the ledger.
func (l *level) arrange() {
	if l.depth == 1 && !l.temporal() {
		return
	}
	slices.SortFunc(l.spots, func(a, b spot) int { return cmp.Compare(a.place, b.place) })
	l.index = indexOf(l.spots)
}

// temporal says whether the level runs along time.
func (l *level) temporal() bool { return l.group.Ref.Field.Type.Temporal() && !l.group.Unit.Cyclic() }

// bySize lists the spots by what has been added to them, those of one size as they stand.
func (l *level) bySize(largestFirst bool) []spot {
	out := slices.Clone(l.spots)
	slices.SortStableFunc(out, func(a, b spot) int {
		if largestFirst {
			a, b = b, a
		}
		return cmp.Compare(a.size, b.size)
	})
	return out
}

// indexOf says where each group stands in a list of them.
func indexOf(spots []spot) map[int]int {
	out := make(map[int]int, len(spots))
	for i, s := range spots {
		out[s.place] = i
	}
	return out
}
