package access

import (
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

var cal = calendar.Calendar{
	Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC), Zone: time.UTC, WeekStart: time.Monday,
	FiscalStart: time.April,
}

// harbour is a catalog of berths, boats that lie at berths, and trips of boats.
func harbour() *catalog.Catalog {
	name := catalog.Field{Key: "name", Label: "Name", Type: catalog.Text}
	worth := catalog.Field{Key: "worth", Label: "Worth", Type: catalog.Decimal, Scale: 2}
	no := catalog.Field{Key: "no", Label: "Number", Type: catalog.Whole} // none is blank
	return &catalog.Catalog{Sets: []*catalog.RecordSet{
		{
			Key: "berths", Label: "Berths", One: "berth", Many: "berths", Name: "name",
			Fields: []catalog.Field{name, worth, no}, Standard: []string{"name", "worth"},
		},
		{
			Key: "boats", Label: "Boats", One: "boat", Many: "boats", Name: "name",
			Fields:   []catalog.Field{name, worth, no},
			Links:    []catalog.Link{{Key: "berth", Label: "Berth", To: "berths"}},
			Standard: []string{"name", "berth.name"},
		},
		{
			Key: "trips", Label: "Trips", One: "trip", Many: "trips", Name: "name",
			Fields: []catalog.Field{name, worth, no}, Links: []catalog.Link{{Key: "boat", Label: "Boat", To: "boats"}},
		},
	}}
}

// filled draws records for a catalog of harbour's shape.
func filled(t *rapid.T) *table.Snapshot {
	snap := &table.Snapshot{Tables: map[string]*table.Table{}}
	rows := map[string]int{}
	for _, set := range harbour().Sets {
		n := rapid.IntRange(0, 70).Draw(t, set.Key)
		rows[set.Key] = n
		made := table.New(set.Key, n)
		dict, codes, worth, no := table.NewDictBuilder(), make([]uint32, n), make([]int64, n), make([]int64, n)
		for i := range n {
			no[i] = int64(i + 1)
			codes[i] = dict.CodeOf(
				rapid.SampledFrom([]string{"", "Quay 1", "Quay 2", "Quay 10", "Éden", "eden", "Slip"}).Draw(t, "name"),
			)
			worth[i] = rapid.SampledFrom([]int64{table.Blank, -250, 0, 100, 1999}).Draw(t, "worth")
		}
		made.Add("name", dict.Build(codes))
		made.Add("worth", table.NewNumbers(worth))
		made.Add("no", table.NewNumbers(no))
		for _, l := range set.Links {
			to := make([]int32, n)
			for i := range to {
				to[i] = int32(rapid.IntRange(-1, rows[l.To]-1).Draw(t, "link"))
			}
			made.AddLink(l.Key, &table.Links{To: l.To, Rows: to})
		}
		snap.Tables[set.Key] = made
	}
	return snap
}

func where(records string, c view.Condition) *view.Document {
	return &view.Document{Gavrik: view.Version, Records: records, Filter: &c}
}

// What a limited reader gets is what everybody gets under the same condition: of the
// set with the rule and, through their links, of all that belong to it. Nothing else in
// the snapshot tells of the rest.
func TestALimitIsAFilterThatCannotBeTakenAway(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		snap, full := filled(t), harbour()
		check := func(c *catalog.Catalog) func(*view.Document) (*plan.Plan, error) {
			return func(doc *view.Document) (*plan.Plan, error) { return plan.Check(doc, c, cal) }
		}
		all := engine.New(snap, full, engine.Options{Workers: 1})
		test := rapid.SampledFrom([]view.Condition{
			{Field: "name", Op: view.OneOf, Values: view.Values{"Quay 1", "eden"}},
			{Field: "worth", Op: view.Over, Value: "0.50"},
			{Field: "name", Op: view.Filled},
			{
				Any: []view.Condition{
					{Field: "name", Op: view.Contains, Value: "quay"}, {Field: "worth", Op: view.IsBlank},
				},
			},
		}).Draw(t, "rule")
		limits := Policy{}
		limits.Add("berths", Restriction{Rules: []*view.Document{where("berths", test)}})
		// It may have been cut before some of the records changed: what is taken over tells no more.
		var before *table.Cut
		if rapid.Bool().Draw(t, "again") {
			was := engine.New(earlier(t, snap, full), full, engine.Options{Workers: 1})
			var err error
			before, err = limits.Snapshot(t.Context(), was.Snapshot(), full, was.Kept, check(full), nil, nil)
			require.NoError(t, err)
		}
		cut, err := limits.Snapshot(t.Context(), all.Snapshot(), full, all.Kept, check(full), nil, before)
		require.NoError(t, err)
		seen := limits.Catalog(full)
		few := engine.New(cut.Snapshot, seen, engine.Options{Workers: 1})
		for set, way := range map[string]string{"berths": "", "boats": "berth.", "trips": "boat.berth."} {
			doc := &view.Document{
				Gavrik: view.Version, Records: set, Groups: []view.Group{{Field: "name"}},
				Sort: []view.Sort{{Field: "worth", Desc: true}},
				Columns: []view.Column{
					{Field: "name", Totals: []view.Total{{Fn: view.Distinct}}},
					{Field: "worth", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Median}}},
				},
			}
			same := *doc
			same.Filter = through(test, way)
			require.Equal(t, shown(t, all, full, &same), shown(t, few, seen, doc), "%s under %+v", set, test)
			texts := cut.Tables[set].Column("name").(*table.Texts)
			used := map[uint32]bool{}
			for _, code := range texts.Codes {
				used[code] = true
			}
			for code := uint32(1); code < uint32(texts.Dict.Len()); code++ {
				require.True(t, used[code], "%s: %q is in no record, and in the dictionary", set, texts.Dict.Value(code))
			}
			p, err := check(seen)(doc)
			require.NoError(t, err)
			ref, err := p.Field(seen, "name")
			require.NoError(t, err)
			values, err := few.Values(t.Context(), p, ref, "", 100)
			require.NoError(t, err)
			for _, v := range values.List {
				require.Positive(t, v.All, "%s: %q", set, v.Value)
			}
		}
	})
}

// earlier is the records with some of their values and links as others.
func earlier(t *rapid.T, snap *table.Snapshot, full *catalog.Catalog) *table.Snapshot {
	out := &table.Snapshot{Tables: maps.Clone(snap.Tables)}
	for range rapid.IntRange(0, 2).Draw(t, "changes") {
		set := rapid.SampledFrom(full.Sets).Draw(t, "set")
		is := out.Tables[set.Key]
		order := make([]int32, is.Rows)
		for i := range order {
			order[i] = rapid.Int32Range(0, int32(is.Rows-1)).Draw(t, "row")
		}
		if len(set.Links) > 0 && rapid.Bool().Draw(t, "links") {
			l := is.Link(set.Links[0].Key)
			rows := make([]int32, len(order))
			for i, from := range order {
				rows[i] = l.Rows[from]
			}
			out.Tables[set.Key] = is.WithLink(set.Links[0].Key, &table.Links{To: l.To, Rows: rows})
			continue
		}
		key := rapid.SampledFrom(set.Fields).Draw(t, "field").Key
		out.Tables[set.Key] = is.With(key, is.Column(key).Gather(order))
	}
	return out
}

// through is a condition on the records that a way of links leads to; records that lead
// to none meet it.
func through(c view.Condition, way string) *view.Condition {
	if way == "" {
		return &c
	}
	moved := c
	if c.Field != "" {
		moved.Field = way + c.Field
	}
	for i, part := range c.Any {
		if i == 0 {
			moved.Any = nil
		}
		part.Field = way + part.Field
		moved.Any = append(moved.Any, part)
	}
	return &view.Condition{Any: []view.Condition{moved, {Field: way + "no", Op: view.IsBlank}}}
}

// shown is all lines of a view, as a reader sees them.
func shown(t *rapid.T, e *engine.Engine, c *catalog.Catalog, doc *view.Document) []string {
	p, err := plan.Check(doc, c, cal)
	require.NoError(t, err)
	res, err := e.Run(t.Context(), p)
	require.NoError(t, err)
	w, err := res.Window(t.Context(), result.Open{Depth: 9}, 0, 1000)
	require.NoError(t, err)
	pen := res.Pen(format.People)
	out := []string{fmt.Sprint(res.Kept, pen.Cells(res.GrandTotal))}
	for _, l := range w.Lines {
		out = append(out, fmt.Sprint(l.Level, pen.Label(l), l.Count, pen.Cells(l)))
	}
	return out
}

func TestWithheldIsSaid(t *testing.T) {
	full := harbour()
	limits := Policy{}
	limits.Add("berths", Restriction{Hidden: true})
	limits.Add("boats", Restriction{Fields: []string{"worth"}})
	limits.Add("boats", Restriction{Fields: []string{"worth"}})
	seen := limits.Catalog(full)
	require.Nil(t, seen.Set("berths"))
	require.Equal(t, []string{
		"name",
	}, seen.Set("boats").Standard, "a standard column that is not seen is left out")
	require.NotNil(t, full.Set("boats").Field("worth"), "others see as before")
	of := func(set, column string, filter *view.Condition, made ...view.Calculated) (*plan.Plan, error) {
		return plan.Check(&view.Document{
			Gavrik: view.Version, Records: set, Columns: []view.Column{{Field: "name"}, {Field: column}},
			Filter: filter, Calculated: made,
		}, seen, cal)
	}
	twice := view.Calculated{Key: "twice", Label: "Twice", Formula: "Worth * 2"}
	thrice := view.Calculated{Key: "thrice", Label: "Thrice", Formula: "Twice * 1.5"}
	p, err := of("boats", "worth", nil)
	require.NoError(t, err)
	require.Equal(t, []string{"Worth"}, p.Restricted)
	require.Len(t, p.Columns, 1, "a column is left out")
	p, err = of("boats", "thrice", nil, twice, thrice)
	require.NoError(t, err)
	require.Equal(t, []string{"Thrice"}, p.Restricted)
	_, err = p.Field(seen, "twice")
	require.ErrorContains(t, err, "“Worth” is kept from you; ask an administrator")
	for what, c := range map[string]view.Condition{
		"“Worth” is kept from you":        {Field: "worth", Op: view.Over, Value: "1"},
		"“Berth” is kept from you":        {Field: "berth.name", Op: view.Filled},
		"Thrice is made of something":     {Field: "thrice", Op: view.Over, Value: "1"},
		"“Berths” is kept from you":       {Linked: &view.Linked{Records: "berths", By: "berth", Test: "any"}},
		"“Boat worth” is kept from you":   {Field: "far", Op: view.Over, Value: "1"},
		"“Berth name” is kept from you; ": {Field: "lain", Op: view.Filled},
	} {
		set, made := "boats", []view.Calculated{
			twice, thrice, {Key: "lain", Label: "Lain", Formula: `'Berth name' & ""`},
		}
		if c.Field == "far" {
			set, made = "trips", []view.Calculated{{Key: "far", Label: "Far", Formula: "'Boat worth' + 1"}}
		}
		_, err := of(set, "name", &c, made...)
		require.ErrorContains(t, err, what, "a condition cannot be left out: the numbers would be others")
	}
}

// In doubt a rule keeps nothing.
func TestRulesThatCannotBeCarriedOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		snap, full := filled(t), harbour()
		e := engine.New(snap, full, engine.Options{Workers: 1})
		wrong := rapid.SampledFrom([]*view.Document{
			where("boats", view.Condition{Field: "name", Op: view.Filled}),
			where("berths", view.Condition{Field: "gone", Op: view.Filled}),
			where("berths", view.Condition{
				Field: "name", Op: view.Is, Parameter: &view.Parameter{Name: "quay", Label: "Quay", Required: true},
			}),
		}).Draw(t, "wrong")
		limits := Policy{}
		limits.Add("berths", Restriction{Rules: []*view.Document{wrong}})
		cut, _ := limits.Snapshot(t.Context(), e.Snapshot(), full, e.Kept, func(doc *view.Document) (*plan.Plan, error) {
			return plan.Check(doc, full, cal)
		}, nil, nil)
		require.Zero(t, cut.Tables["berths"].Rows)
		links := snap.Tables["boats"].Link("berth").Rows
		lone := len(slices.DeleteFunc(slices.Clone(links), func(to int32) bool { return to >= 0 }))
		require.Equal(t, lone, cut.Tables["boats"].Rows, "boats at a berth go with it")
	})
}
