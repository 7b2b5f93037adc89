package board

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// drawn draws a board that makes sense.
func drawn(t *rapid.T) *Board {
	b := &Board{Gavrik: Version}
	for i := range rapid.IntRange(0, 14).Draw(t, "parts") {
		p := Part{
			Key: fmt.Sprintf("part_%d", i), Show: rapid.SampledFrom([]Show{Figure, Chart, Groups, Table, Text}).Draw(t, "show"),
			Wide: rapid.SampledFrom([]int{0, 2, 3, 5, 7, 12}).Draw(t, "wide"),
			High: rapid.SampledFrom([]int{0, 2, 3, 6, 30}).Draw(t, "high"),
			Page: rapid.IntRange(0, 4).Draw(t, "page") == 0,
		}
		if p.Show == Text {
			p.Text = "Words"
		} else {
			p.View = rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "view")
		}
		b.Parts = append(b.Parts, p)
	}
	return b
}

func TestABoardThatIsWrittenIsReadTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := drawn(t)
		require.NoError(t, b.Check())
		text, err := json.Marshal(b)
		require.NoError(t, err)
		again, err := Parse(text)
		require.NoError(t, err)
		require.Empty(t, Changes(b, again, strings.Clone))
		require.Equal(t, len(b.Parts), len(again.Parts))
	})
}

// Every part has its place, on the page that it is of; no two lie on each other, none over the edge; and none
// stands before the one that comes before it in reading order.
func TestPartsLieBesideEachOtherInReadingOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := drawn(t)
		part := 0
		for n, page := range b.Pages() {
			taken := map[[2]int]bool{}
			before := Place{Row: -1}
			rows := 0
			for at, p := range page.Places {
				require.Equal(t, part, p.Part)
				require.True(t, n == 0 && at == 0 || b.Parts[part].Page == (at == 0))
				wide, high := b.Parts[part].Size()
				require.Equal(t, [2]int{wide, high}, [2]int{p.Wide, p.High})
				require.LessOrEqual(t, p.Column+p.Wide, Columns)
				for r := range p.High {
					for c := range p.Wide {
						cell := [2]int{p.Row + r, p.Column + c}
						require.False(t, taken[cell])
						taken[cell] = true
					}
				}
				require.True(t, p.Row > before.Row || p.Row == before.Row && p.Column > before.Column)
				before, rows = p, max(rows, p.Row+p.High)
				part++
			}
			require.Equal(t, rows, page.Rows)
		}
		require.Equal(t, len(b.Parts), part)
	})
}

// The words of a change name each part that was added, taken off or moved, and as few as can be.
func TestChangesNameWhatWasDone(t *testing.T) {
	name := func(key string) string { return "View " + key }
	rapid.Check(t, func(t *rapid.T) {
		before := drawn(t)
		after := &Board{Gavrik: Version, Parts: slices.Clone(before.Parts)}
		if len(after.Parts) < 2 {
			t.Skip("nothing to move")
		}
		from := rapid.IntRange(0, len(after.Parts)-1).Draw(t, "from")
		to := rapid.IntRange(0, len(after.Parts)-1).Draw(t, "to")
		moved := after.Parts[from]
		after.Parts = slices.Insert(slices.Delete(after.Parts, from, from+1), to, moved)
		words := Changes(before, after, name)
		switch {
		case from == to:
			require.Empty(t, words)
		case from-to == 1 || to-from == 1: // either of the two moved
			require.Len(t, words, 1)
			require.Contains(t, words[0], " moved")
		default:
			require.Equal(t, []string{moved.Called(name) + " moved"}, words)
		}
		require.Equal(t, []string{moved.Called(name) + " taken off"},
			Changes(before, &Board{Gavrik: Version, Parts: slices.Delete(slices.Clone(before.Parts), from, from+1)}, name))
	})
}

func TestWhatIsWrongWithABoardIsSaidWhereItStands(t *testing.T) {
	for _, c := range []struct{ board, at, words string }{
		{`{"gavrik":1,"parts":[{"key":"a","show":"figure"}]}`, "parts[0].view", "choose one"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"text","text":"x","view":"v"}]}`, "parts[0].view", "of no view"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"text","text":" \n"}]}`, "parts[0].text", "says nothing"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"chart","view":"v","text":"x"}]}`, "parts[0].text", "part of its own"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"figure","view":"v","count":true,"fn":"sum"}]}`, "parts[0].count", "leave one"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"table","view":"v"},{"key":"a","show":"table","view":"v"}]}`, "parts[1].key", "already"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"pie","view":"v"}]}`, "parts[0].show", "none of the words"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"table","view":"v","wide":13}]}`, "parts[0].wide", "from 2 to 12"},
		{`{"gavrik":1,"parts":[{"key":"a","show":"table","veiw":"v"}]}`, "parts[0].veiw", "view"},
		{`[]`, "", "a board is wanted"},
		{`{"gavrik":1,"parts":[` + strings.Repeat(`{"key":"a","show":"table","view":"v"},`, 60) + `{"key":"b","show":"table","view":"v"}]}`, "parts", "second board"},
	} {
		b, err := Parse([]byte(c.board))
		if err == nil {
			err = b.Check()
		}
		var faults view.Faults
		require.ErrorAs(t, err, &faults, c.board)
		require.Equal(t, c.at, faults[0].Path)
		require.Contains(t, faults[0].Message, c.words)
	}
}

// Whatever views ask, each of their questions is asked once on the board, an answer reaches every view that it
// is for under its own name, and no two questions of one view become one.
func TestEveryQuestionOfEveryViewIsAskedOnce(t *testing.T) {
	types := []catalog.Type{catalog.Text, catalog.Whole}
	rapid.Check(t, func(t *rapid.T) {
		var sources []Source
		for i := range rapid.IntRange(1, 5).Draw(t, "views") {
			s := Source{View: fmt.Sprint("v", i)}
			for n := range rapid.IntRange(0, 4).Draw(t, "asks") {
				at := rapid.IntRange(0, 3).Draw(t, "field")
				op := rapid.SampledFrom([]view.Op{view.Is, view.OneOf}).Draw(t, "op")
				s.Asks = append(s.Asks, Ask{
					Condition: view.Condition{Field: "f", Op: op, Parameter: &view.Parameter{
						Name: fmt.Sprint("q", rapid.IntRange(0, 1).Draw(t, "name"), "_", n), Required: at == 1,
					}, Value: fmt.Sprint(at % 2)},
					Ref: catalog.Ref{Set: fmt.Sprint("s", at%2), Field: catalog.Field{Key: fmt.Sprint("f", at), Type: types[at%2]}},
				})
			}
			sources = append(sources, s)
		}
		questions := Questions(sources)
		asked, names := map[string]int{}, map[string]bool{}
		given := map[string]view.Given{}
		for _, q := range questions {
			require.False(t, names[q.Name], "two questions go by %s", q.Name)
			names[q.Name] = true
			given[q.Name] = view.Given{Value: q.Name}
			of := map[string]bool{}
			for _, o := range q.Of {
				asked[o.View+" "+o.Name]++
				require.False(t, of[o.View], "two questions of %s became one", o.View)
				of[o.View] = true
			}
		}
		for _, s := range sources {
			own := Answers(questions, given, s.View)
			require.Len(t, own, len(s.Asks))
			for _, a := range s.Asks {
				require.Equal(t, 1, asked[s.View+" "+a.Condition.Parameter.Name])
			}
		}
		require.Empty(t, Unasked(questions, given))
		given["nobody"] = view.Given{}
		require.Equal(t, []string{"nobody"}, Unasked(questions, given))
	})
}

// What is asked of the same field is one question, whatever way leads there and whatever it is called.
func TestViewsOfDifferentRecordsShareAQuestion(t *testing.T) {
	ask := func(name, path, set string, op view.Op, proposed ...string) Ask {
		return Ask{
			Condition: view.Condition{Field: path, Op: op, Values: proposed, Parameter: &view.Parameter{Name: name}},
			Ref:       catalog.Ref{Path: path, Set: set, Field: catalog.Field{Key: "name", Type: catalog.Text}},
		}
	}
	questions := Questions([]Source{
		{"claims", []Ask{ask("route", "booking.sailing.route.name", "routes", view.OneOf, "Oxley")}},
		{"sailings", []Ask{ask("which", "route.name", "routes", view.OneOf)}},
		{"ports", []Ask{ask("route", "name", "ports", view.OneOf, "Oxley"), ask("one", "name", "ports", view.Is)}},
	})
	require.Len(t, questions, 2)
	require.Equal(t, []Of{{"claims", "route"}, {"sailings", "which"}, {"ports", "route"}}, questions[0].Of)
	require.True(t, questions[0].Differs, "they propose different answers")
	require.Equal(t, "one", questions[1].Name)
}
