package result

import (
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
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
func (s *Summary) Notes() []Note {
	var out []Note
	if held := s.Plan.Restricted; len(held) > 0 {
		names := strings.Join(slices.Compact(slices.Clone(held)), ", ")
		out = append(out, Note{Text: "kept from you, and left out: " + names})
	}
	for _, lost := range s.Plan.Lost {
		out = append(out, Note{
			Text: fmt.Sprintf("the column “%s” is not in the records any more, and is left out", lost),
		})
	}
	for _, held := range s.Held {
		out = append(out, Note{Text: held})
	}
	for _, l := range s.LeftOut {
		out = append(out, Note{Text: s.leftOutWords(l)})
	}
	for _, p := range s.Problems {
		n := Note{Text: p.String()}
		if !p.Groups {
			n.Failed = p.Path
		}
		out = append(out, n)
	}
	for _, t := range s.Ties {
		out = append(out, Note{Text: fmt.Sprintf("%s: of %d %s, several records are equal by %s; the order of the records decides",
			t.Label, t.Count, s.noun(t.Count), t.By)})
	}
	for _, c := range s.Currencies {
		out = append(out, Note{Text: c.String(), Group: c.By})
	}
	for _, st := range s.Steps {
		if st.Mixed > 0 {
			out = append(out, Note{Text: s.mixedWords(st), Phrase: st.Path})
		}
		if st.TooLarge > 0 {
			out = append(out, Note{Phrase: st.Path, Text: fmt.Sprintf(
				"%d %s: their linked amounts are too large to be added up, so they do not meet the condition",
				st.TooLarge, s.noun(st.TooLarge))})
		}
		if st.UnmatchedCount > 0 {
			out = append(out, Note{Text: st.unmatchedWords(), Phrase: st.Path})
		}
	}
	for _, lost := range s.lost() {
		out = append(out, Note{Text: lost})
	}
	return out
}

// NotesInWords are the notes for who has the figures alone; they say as well which averages
// stand for several prices, as the ledger does beside each.
func (s *Summary) NotesInWords() []string {
	var out []string
	for _, n := range s.Notes() {
		out = append(out, n.Text)
	}
	for _, h := range s.Heads {
		if h.Mixed == 0 {
			continue
		}
		lines := "lines"
		if h.Mixed == 1 {
			lines = "line"
		}
		out = append(out, fmt.Sprintf("%s stands for several prices in %d %s", s.Label(h), h.Mixed, lines))
	}
	return out
}

// lost says of every field that the view reads how many of its values could not be kept.
func (s *Summary) lost() []string {
	var out []string
	for _, ref := range s.Plan.Stored() {
		if ref.Field.Lost != "" && !slices.Contains(out, ref.Field.Lost) {
			out = append(out, ref.Field.Lost)
		}
	}
	return out
}

// leftOutWords say how much the groups took with them that were not kept.
func (s *Summary) leftOutWords(l LeftOut) string {
	groups := "groups"
	if l.Groups == 1 {
		groups = "group"
	}
	return fmt.Sprintf("%d %s of %s with %d %s left out by their total", l.Groups, groups,
		catalog.LowerFirst(l.Label), l.Records, s.noun(l.Records))
}

// mixedWords say that a condition on linked amounts cannot be decided for some records.
func (s *Summary) mixedWords(st Step) string {
	noun := s.noun(st.Mixed) + " have"
	if st.Mixed == 1 {
		noun = s.Plan.One + " has"
	}
	return fmt.Sprintf("%d %s linked amounts in several currencies, which are not added up: they do not meet the condition",
		st.Mixed, noun)
}

// noun names so many records.
func (s *Summary) noun(n int) string {
	if n == 1 {
		return s.Plan.One
	}
	return s.Plan.Many
}

// unmatchedWords say that listed values are in no record.
func (s Step) unmatchedWords() string {
	if s.UnmatchedCount == 1 {
		return "1 listed value matches nothing"
	}
	return fmt.Sprintf("%d listed values match nothing", s.UnmatchedCount)
}
