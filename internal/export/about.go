package export

import (
	"cmp"
	"fmt"
	"strconv"
	"time"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Source is an answered view on its way out.
type Source struct {
	Result   result.Result
	Document *view.Document
	Set      *catalog.RecordSet
	// Title is the view's name, or empty; By is who takes it away, or empty.
	Title, By string
	// Made is when it leaves, for paper to say; zero says nothing.
	Made time.Time
	// Letterhead is whose paper it is; nil for nobody's.
	Letterhead *Letterhead
	// Progress, if set, hears now and then how many lines have gone by.
	Progress func(lines int)
	// first, if not 0, is how many lines are written at most.
	first int
}

// Letterhead is what stands at the head of paper: a name, lines of address, a logo as PNG.
type Letterhead struct {
	Name    string
	Address string
	Logo    []byte
}

// About is what a file says of itself.
type About struct {
	Title string `json:"title,omitempty"`
	// Brief is the view in one sentence.
	Brief string `json:"brief"`
	// Conditions are those built into the view; Answers what was answered this time.
	Conditions []string `json:"conditions,omitzero"`
	Answers    []Answer `json:"answers,omitzero"`
	// Withheld names what is left out because the reader may not see it.
	Withheld []string `json:"withheld,omitzero"`
	// AsOf is the moment of the records, All and Kept how many there are before and after
	// the filter.
	AsOf time.Time `json:"asOf"`
	All  int       `json:"all"`
	Kept int       `json:"kept"`
	// Notes are what a reader of the figures has to know.
	Notes []string `json:"notes,omitzero"`
	By    string   `json:"by,omitempty"`
}

// Answer is what was answered to a question of the view, in this run.
type Answer struct {
	Name     string `json:"name"`
	Question string `json:"question"`
	Answer   string `json:"answer"`
}

// about says what a file is.
func (s Source) about() About {
	sum := s.Result.Summarize()
	phrases := brief.Write(sum.Plan, s.Document, s.Set)
	out := About{
		Title: s.Title, Brief: brief.Text(phrases), Withheld: sum.Plan.Restricted,
		AsOf: sum.AsOf, All: sum.All, Kept: sum.Kept, Notes: sum.NotesInWords(), By: s.By,
	}
	for _, p := range phrases {
		switch {
		case p.Parameter != nil:
			out.Answers = append(out.Answers, Answer{p.Parameter.Name, p.Parameter.Label, p.Text})
		case p.Kind == brief.Filter:
			out.Conditions = append(out.Conditions, p.Text)
		}
	}
	return out
}

// heading is what stands over the result: the view's name or, if it has none, what its rows are.
func (s Source) heading() string { return cmp.Or(s.Title, s.Set.Label) }

// counts say how many records there are: "792 of 8,000 claims".
func (s Source) counts() string {
	sum := s.Result.Summarize()
	return fmt.Sprintf("%s of %s %s", thousands(sum.Kept), thousands(sum.All), sum.Plan.Many)
}

// moment writes a moment for people, in the view's zone.
func (s Source) moment(t time.Time) string {
	w := format.NewWriter(format.People, s.Result.Summarize().Plan.Calendar)
	return w.Number(t.UnixMicro(), catalog.Field{Type: catalog.DateTime})
}

func thousands(n int) string { return format.Thousands(strconv.Itoa(n)) }

// instant writes a moment for programs.
func instant(t time.Time) string { return t.UTC().Format(time.RFC3339) }
