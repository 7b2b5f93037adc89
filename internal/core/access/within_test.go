package access

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/view"
)

// drawnPolicy keeps some of two record sets.
func drawnPolicy(t *rapid.T, label string) Policy {
	out := Policy{}
	for _, set := range []string{"claims", "bookings"} {
		fields := rapid.SliceOfDistinct(rapid.SampledFrom([]string{"paid", "note"}), rapid.ID).Draw(t, label+" fields of "+set)
		r := Restriction{Fields: fields, Hidden: rapid.IntRange(0, 4).Draw(t, label+" hides "+set) == 0}
		for _, port := range rapid.SliceOfDistinct(rapid.SampledFrom([]string{"Oxley", "Tarn Head"}), rapid.ID).Draw(t, label+" rules of "+set) {
			r.Rules = append(r.Rules, &view.Document{Records: set, Filter: &view.Condition{Field: "port", Value: port}})
		}
		out.Add(set, r)
	}
	return out
}

// Whoever sees no less than the maker of something may see it; whoever has a limit more on what it is
// made of, or a rule more on whatever records, may not.
func TestWithinAnotherPolicy(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		made := drawnPolicy(t, "made")
		uses := []Use{{"claims", ""}, {"claims", "paid"}, {"bookings", ""}}
		require.True(t, Policy{}.Within(made, uses), "who sees everything")
		require.True(t, made.Within(made, uses), "who sees the same")
		more := drawnPolicy(t, "more")
		limited := Policy{}
		for set, r := range made {
			limited.Add(set, r)
		}
		for set, r := range more {
			limited.Add(set, r)
		}
		allowed := true
		for set, r := range more {
			then := made[set]
			allowed = allowed && (!r.Hidden || then.Hidden)
			for _, rule := range r.Rules {
				known := false
				for _, other := range then.Rules {
					known = known || other.Filter.Value == rule.Filter.Value
				}
				allowed = allowed && known
			}
			for _, f := range r.Fields {
				used := set == "claims" && f == "paid"
				known := false
				for _, other := range then.Fields {
					known = known || other == f
				}
				allowed = allowed && (!used || known)
			}
		}
		require.Equal(t, allowed, limited.Within(made, uses))
	})
}
