package board

import (
	"fmt"
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// Source is a view of a board with what it asks.
type Source struct {
	// View is its key.
	View string
	Asks []Ask
}

// Ask is a question of a view; Ref is the field that it is about.
type Ask struct {
	Condition view.Condition
	Ref       catalog.Ref
}

// Question is one that a board asks once for all of its views that ask the same.
type Question struct {
	// Name is what its answer is given by on this board.
	Name string
	// Condition is that of the first view that asks it, View that view's key. Required says that one of
	// them waits for an answer.
	Condition view.Condition
	View      string
	Required  bool
	// Differs says that the views do not propose the same: without an answer, each goes by its own.
	Differs bool
	Of      []Of
}

// Of is a view's own name for a question.
type Of struct {
	View string `json:"view"`
	Name string `json:"name"`
}

// Questions puts together what views ask. Two questions are the same if they take the same kind of answer
// and are about the same field of the same records, whatever way leads there; or if they go by one name and
// their fields are of one type. No two questions of one view are put together.
func Questions(sources []Source) []Question {
	type known struct {
		*Question
		ref catalog.Ref
	}
	var all []known
	names := map[string]bool{}
	for _, s := range sources {
		for _, a := range s.Asks {
			own := a.Condition.Parameter
			fits := func(k known) bool {
				same := k.ref.Set == a.Ref.Set && k.ref.Field.Key == a.Ref.Field.Key
				named := k.Condition.Parameter.Name == own.Name && k.ref.Field.Type == a.Ref.Field.Type
				taken := slices.ContainsFunc(k.Of, func(o Of) bool { return o.View == s.View })
				return (same || named) && !taken && k.Condition.Op.Info().Operand == a.Condition.Op.Info().Operand
			}
			if at := slices.IndexFunc(all, fits); at >= 0 {
				q := all[at].Question
				q.Of = append(q.Of, Of{s.View, own.Name})
				q.Required = q.Required || own.Required
				q.Differs = q.Differs || !q.Condition.SameOperands(a.Condition)
				continue
			}
			q := &Question{
				Name: own.Name, Condition: a.Condition, View: s.View, Required: own.Required, Of: []Of{{s.View, own.Name}},
			}
			for n := 2; names[q.Name]; n++ {
				q.Name = fmt.Sprintf("%s_%d", own.Name, n)
			}
			names[q.Name] = true
			all = append(all, known{q, a.Ref})
		}
	}
	out := make([]Question, len(all))
	for i, k := range all {
		out[i] = *k.Question
	}
	return out
}

// Answers are the answers to a view's own questions, by its own names, among those given to the board's.
func Answers(questions []Question, given map[string]view.Given, key string) map[string]view.Given {
	own := map[string]view.Given{}
	for _, q := range questions {
		answer, ok := given[q.Name]
		at := slices.IndexFunc(q.Of, func(of Of) bool { return of.View == key })
		if ok && at >= 0 {
			own[q.Of[at].Name] = answer
		}
	}
	return own
}

// Unasked are the names, in order, of answers that no question asks for.
func Unasked(questions []Question, given map[string]view.Given) []string {
	return slices.DeleteFunc(slices.Sorted(maps.Keys(given)), func(name string) bool {
		return slices.ContainsFunc(questions, func(q Question) bool { return q.Name == name })
	})
}
