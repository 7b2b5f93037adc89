package engine

import (
	"fmt"
	"slices"
	"strings"
)

// Notes say what a reader of the figures has to know, one sentence each: what was left out,
// what could not be worked out or kept, and which averages stand for several prices.
func (r *Result) Notes() []string {
	var out []string
	if held := r.Plan.Withheld; len(held) > 0 {
		out = append(out, "kept from you, and left out: "+strings.Join(slices.Compact(slices.Clone(held)), ", "))
	}
	for _, lost := range r.Plan.Lost {
		out = append(out, fmt.Sprintf("the column “%s” is not in the records any more, and is left out", lost))
	}
	for _, p := range r.Problems {
		out = append(out, p.String())
	}
	for _, c := range r.Currencies {
		out = append(out, c.String())
	}
	for _, s := range r.Steps {
		if s.Mixed > 0 {
			out = append(out, r.MixedWords(s))
		}
		if s.UnmatchedCount > 0 {
			out = append(out, s.UnmatchedWords())
		}
	}
	return append(append(out, r.Lost()...), r.priceNotes()...)
}

// Lost says of every field that the view reads how many of its values could not be kept.
func (r *Result) Lost() []string {
	var out []string
	for _, ref := range r.Plan.Stored() {
		if ref.Field.Lost != "" && !slices.Contains(out, ref.Field.Lost) {
			out = append(out, ref.Field.Lost)
		}
	}
	return out
}

// MixedWords say that a condition on linked amounts cannot be decided for some records.
func (r *Result) MixedWords(s Step) string {
	noun := r.Plan.Many + " have"
	if s.Mixed == 1 {
		noun = r.Plan.One + " has"
	}
	return fmt.Sprintf("%d %s linked amounts in several currencies, which are not added up: they do not meet the condition",
		s.Mixed, noun)
}

// UnmatchedWords say that listed values are in no record.
func (s Step) UnmatchedWords() string {
	if s.UnmatchedCount == 1 {
		return "1 listed value matches nothing"
	}
	return fmt.Sprintf("%d listed values match nothing", s.UnmatchedCount)
}

// priceNotes say of every average of prices how many lines it stands for several in.
func (r *Result) priceNotes() []string {
	var out []string
	for i, h := range r.Heads {
		f := r.cells[i]
		if !r.Mixes(i) {
			continue
		}
		n := 0
		for node := range f.low {
			if f.mixesAt(int32(node)) {
				n++
			}
		}
		lines := "lines"
		if n == 1 {
			lines = "line"
		}
		out = append(out, fmt.Sprintf("%s stands for several prices in %d %s", r.Label(h), n, lines))
	}
	return out
}

// Mixes says whether a column of the ledger has averages that stand for several prices.
func (r *Result) Mixes(head int) bool {
	f := r.cells[head]
	if f == nil {
		return false
	}
	for node := range f.low {
		if f.mixesAt(int32(node)) {
			return true
		}
	}
	return false
}
