package access

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// BenchmarkLimiting makes a limited reader's snapshot of a million trips, of which the
// share that its name says belongs to the berths she sees.
func BenchmarkLimiting(b *testing.B) {
	const berths, trips = 1000, 1_000_000
	r := rand.New(rand.NewPCG(1, 2))
	full := harbour()
	full.Sets[2].Links = []catalog.Link{{Key: "berth", Label: "Berth", To: "berths"}}
	snap := &table.Snapshot{Tables: map[string]*table.Table{}}
	for _, set := range full.Sets {
		n := map[string]int{"berths": berths, "boats": 0, "trips": trips}[set.Key]
		t := table.New(set.Key, n)
		ref, kind := table.NewUniqueBuilder(n), table.NewDictBuilder()
		refs, kinds, worth, no := make([]uint32, n), make([]uint32, n), make([]int64, n), make([]int64, n)
		for i := range n {
			refs[i], kinds[i], worth[i], no[i] = ref.CodeOf(fmt.Sprintf("TR-%08d", i)), kind.CodeOf(fmt.Sprint(
				"Kind ", r.IntN(40),
			)), int64(r.IntN(90_000)), int64(i)
		}
		t.Add("name", ref.Build(refs))
		t.Add("kind", kind.Build(kinds))
		t.Add("worth", table.NewNumbers(worth))
		t.Add("no", table.NewNumbers(no))
		for _, l := range set.Links {
			to := make([]int32, n)
			for i := range to {
				to[i] = int32(r.IntN(berths))
			}
			t.AddLink(l.Key, &table.Links{To: l.To, Rows: to})
		}
		snap.Tables[set.Key] = t
	}
	e := engine.New(snap, full, engine.Options{})
	check := func(doc *view.Document) (*plan.Plan, error) { return plan.Check(doc, full, cal) }
	for name, most := range map[string]string{"tenth": "99", "half": "499", "all but one": "998"} {
		b.Run(name, func(b *testing.B) {
			limits := Policy{}
			limits.Add("berths", Restriction{
				Rules: []*view.Document{where("berths", view.Condition{Field: "no", Op: view.AtMost, Value: most})},
			})
			for b.Loop() {
				if _, err := limits.Snapshot(b.Context(), e.Snapshot(), full, e.Kept, check, nil, nil); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
