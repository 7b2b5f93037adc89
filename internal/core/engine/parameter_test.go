package engine

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/view"
)

// A question that is left unanswered filters nothing, wherever it stands: the view keeps
// what it would without it.
func TestUnansweredQuestionsFilterNothing(t *testing.T) {
	dropped := 0
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		c := drawCondition(t, w, 3)
		d.Filter = &c
		without := *d
		without.Filter = open(t, d.Filter, &dropped)
		require.Equal(
			t, whole(t, runWorld(t, w, w.engine(1), &without)), whole(t, runWorld(t, w, w.engine(2), d)), described(d),
		)
	})
	require.Greater(t, dropped, 10)
}

// open leaves some tests of a condition open, and returns the condition without them.
func open(t *rapid.T, c *view.Condition, dropped *int) *view.Condition {
	if c.Field != "" {
		if !rapid.Bool().Draw(t, "asked") || c.Op == view.IsBlank || c.Op == view.Filled || c.Op == view.Failed {
			return c
		}
		*c = view.Condition{
			Field: c.Field, Op: c.Op,
			Parameter: &view.Parameter{Name: fmt.Sprintf("what%d", *dropped), Label: "What?"},
		}
		*dropped++
		return nil
	}
	out := *c
	for _, list := range []*[]view.Condition{&out.All, &out.Any, &out.None} {
		if *list == nil {
			continue
		}
		left := []view.Condition{}
		for i := range *list {
			if part := open(t, &(*list)[i], dropped); part != nil {
				left = append(left, *part)
			}
		}
		*list = left
	}
	return &out
}
