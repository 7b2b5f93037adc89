package engine

import (
	"fmt"
	"slices"
	"strings"
)

// Note is something that a reader of the figures has to know. At most one of the others says
// where it leads.
type Note struct {
	Text string
	// Failed is the path of a field whose failed records can be asked for, Phrase that of the
	// condition to look at, Group that of a field to group by.
	Failed, Phrase, Group string
}

// Notes say what was left out, and what could not be worked out or kept.
func (r *Result) Notes() []Note {
	var out []Note
	if held := r.Plan.Withheld; len(held) > 0 {
		names := strings.Join(slices.Compact(slices.Clone(held)), ", ")
		out = append(out, Note{Text: "kept from you, and left out: " + names})
	}
	for _, lost := range r.Plan.Lost {
		out = append(out, Note{Text: fmt.Sprintf("the column “%s” is not in the records any more, and is left out", lost)})
	}
	for _, p := range r.Problems {
		n := Note{Text: p.String()}
		if !p.Groups {
			n.Failed = p.Path
		}
		out = append(out, n)
	}
	for _, c := range r.Currencies {
		out = append(out, Note{Text: c.String(), Group: c.By})
	}
	for _, s := range r.Steps {
		if s.Mixed > 0 {
			out = append(out, Note{Text: r.mixedWords(s), Phrase: s.Path})
		}
		if s.UnmatchedCount > 0 {
			out = append(out, Note{Text: s.unmatchedWords(), Phrase: s.Path})
		}
	}
	for _, lost := range r.lost() {
		out = append(out, Note{Text: lost})
	}
	return out
}

// NotesInWords are the notes for who has the figures alone; they say as well which averages
// stand for several prices, as the ledger does beside each.
func (r *Result) NotesInWords() []string {
	var out []string
	for _, n := range r.Notes() {
		out = append(out, n.Text)
	}
	for i, h := range r.Heads {
		n := r.mixesIn(i)
		if n == 0 {
			continue
		}
		lines := "lines"
		if n == 1 {
			lines = "line"
		}
		out = append(out, fmt.Sprintf("%s stands for several prices in %d %s", r.Label(h), n, lines))
	}
	return out
}

// lost says of every field that the view reads how many of its values could not be kept.
func (r *Result) lost() []string {
	var out []string
	for _, ref := range r.Plan.Stored() {
		if ref.Field.Lost != "" && !slices.Contains(out, ref.Field.Lost) {
			out = append(out, ref.Field.Lost)
		}
	}
	return out
}

// mixedWords say that a condition on linked amounts cannot be decided for some records.
func (r *Result) mixedWords(s Step) string {
	noun := r.Plan.Many + " have"
	if s.Mixed == 1 {
		noun = r.Plan.One + " has"
	}
	return fmt.Sprintf("%d %s linked amounts in several currencies, which are not added up: they do not meet the condition",
		s.Mixed, noun)
}

// unmatchedWords say that listed values are in no record.
func (s Step) unmatchedWords() string {
	if s.UnmatchedCount == 1 {
		return "1 listed value matches nothing"
	}
	return fmt.Sprintf("%d listed values match nothing", s.UnmatchedCount)
}

// Mixes says whether a column of the ledger has averages that stand for several prices.
func (r *Result) Mixes(head int) bool { return r.mixesIn(head) > 0 }

// mixesIn counts the lines in which an average of a column stands for several prices.
func (r *Result) mixesIn(head int) (n int) {
	f := r.cells[head]
	if f == nil {
		return 0
	}
	for node := range f.low {
		if f.mixesAt(int32(node)) {
			n++
		}
	}
	return n
}
