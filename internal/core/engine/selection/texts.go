// Conditions on texts, decided once for every different text of the dictionary.

package selection

import (
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"strings"
	"sync"
)

// textTable decides a test once for every distinct text: 1 for the codes that
// meet it. It also returns the wanted values that no record has.
func (f *filter) textTable(d *table.Dict, t *plan.Predicate) (meets []uint8, unmatched []int, err error) {
	meets = make([]uint8, d.Len())
	if t.Match == plan.MatchBlank || t.Blank {
		meets[0] = 1
	}
	if t.Match == plan.MatchSet {
		var mu sync.Mutex // protects meets: a text may be listed twice
		unmatched, err = f.findTexts(d, t, func(codes []uint32) {
			mu.Lock()
			defer mu.Unlock()
			for _, code := range codes {
				meets[code] = 1
			}
		})
		return meets, unmatched, err
	}
	var hit func(s string) bool
	switch t.Match {
	case plan.MatchContains:
		return meets, nil, f.job.EachBlock(d.Len(), func(lo, hi int) {
			d.EachFoldedWithin(t.Texts[0], uint32(max(lo, 1)), uint32(hi), func(code uint32) { meets[code] = 1 })
		})
	case plan.MatchStarts:
		hit = func(s string) bool { return strings.HasPrefix(s, t.Texts[0]) }
	case plan.MatchEnds:
		hit = func(s string) bool { return strings.HasSuffix(s, t.Texts[0]) }
	case plan.MatchLike:
		hit = newLike(t.Texts[0]).matches
	default:
		return meets, nil, nil
	}
	return meets, nil, f.job.EachShare(d.Len(), kernel.BlockRows, func(lo, hi int, stopped func() bool) {
		for code := max(lo, 1); code < hi; code++ {
			if code%likeTexts == 0 && stopped() {
				return
			}
			if hit(d.Folded(uint32(code))) {
				meets[code] = 1
			}
		}
	})
}

// likeTexts is after how many texts their matching looks up from its work.
const likeTexts = 256

// markUnique marks the one row of each listed text.
func (f *filter) markUnique(s *selection, c *table.Texts, t *plan.Predicate) (err error) {
	var mu sync.Mutex // protects s.met
	s.unmatched, err = f.findTexts(c.Dict, t, func(codes []uint32) {
		mu.Lock()
		defer mu.Unlock()
		for _, code := range codes {
			row, _ := c.RowOf(code)
			s.met.Words[row/64] |= 1 << (row % 64)
		}
	})
	return err
}

// findTexts looks listed texts up and calls do with the codes found, some at a
// time, perhaps from several goroutines. It returns the places of those that no
// record has.
func (f *filter) findTexts(
	d *table.Dict, t *plan.Predicate, do func(codes []uint32),
) (unmatched []int, err error) {
	missing := make([]bool, len(t.Texts))
	if d.FindsQuickly() || len(t.Texts) == 1 {
		err = f.job.EachShare(len(t.Texts), fewTexts, func(lo, hi int, _ func() bool) {
			do(d.FindEach(nil, t.Texts[lo:hi], func(i int) { missing[lo+i] = true }))
		})
	} else {
		err = f.findAmongAll(d, t, missing, do)
	}
	for i, m := range missing {
		if m {
			unmatched = append(unmatched, i)
		}
	}
	return unmatched, err
}

// findAmongAll is findTexts for a dictionary in no order: every text of it is
// looked up in the list.
func (f *filter) findAmongAll(
	d *table.Dict, t *plan.Predicate, missing []bool, do func(codes []uint32),
) error {
	places := make(map[string][]int, len(t.Texts))
	for i, text := range t.Texts {
		places[text] = append(places[text], i)
		missing[i] = true
	}
	var mu sync.Mutex // protects missing
	return f.job.EachBlock(d.Len(), func(lo, hi int) {
		var codes []uint32
		for code := uint32(max(lo, 1)); code < uint32(hi); code++ {
			if at, ok := places[d.Folded(code)]; ok {
				codes = append(codes, code)
				mu.Lock()
				for _, i := range at {
					missing[i] = false
				}
				mu.Unlock()
			}
		}
		do(codes)
	})
}

// fewTexts is how many listed texts one goroutine looks up at the least.
const fewTexts = 256
