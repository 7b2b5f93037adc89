package plan

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// Staff have a boss, who is staff, too: definitions can lead back to themselves
// through a link.
var crew = &catalog.Catalog{Sets: []*catalog.RecordSet{
	{Key: "staff", Label: "Staff", One: "person", Many: "staff", Name: "name",
		Fields: []catalog.Field{
			{Key: "name", Label: "Name", Type: catalog.Text},
			{Key: "pay", Label: "Pay", Type: catalog.Money, Scale: 2},
		},
		Links: []catalog.Link{{Key: "port", Label: "Port", To: "ports"}}},
	{Key: "ports", Label: "Ports", One: "port", Many: "ports", Name: "name",
		Fields: []catalog.Field{
			{Key: "name", Label: "Name", Type: catalog.Text}, {Key: "berths", Label: "Berths", Type: catalog.Whole},
		},
		Links: []catalog.Link{{Key: "keeper", Label: "Keeper", To: "staff"}}},
}}

func checkCrew(defs Definitions, doc view.Document) (*Plan, error) {
	doc.Gavrik, doc.Records = 1, "staff"
	return CheckWith(&doc, crew, defs, calendar.Calendar{})
}

func column(path string) view.Document {
	return view.Document{Columns: []view.Column{{Field: path}}}
}

func TestDefinitionsAreFoundByKeyAndByName(t *testing.T) {
	defs := Definitions{
		"staff": DefinedBy(view.Document{
			Calculated: []view.Calculated{
				{Key: "yearly", Label: "Pay a year", Formula: "Pay * 12"},
				{Key: "rise", Label: "Rise", Formula: "'pay a year' * 5%"},
			},
		}),
		"ports": DefinedBy(view.Document{
			Calculated: []view.Calculated{{Key: "space", Label: "Space", Formula: "Berths * 80"}},
			Buckets:    []view.Bucket{{Key: "size", Label: "Size", Of: "space", Bands: []view.Band{{Below: "400"}}}},
		}),
	}
	p, err := checkCrew(defs, column("rise"))
	require.NoError(t, err)
	require.Equal(t, [][2]string{
		{"staff", "rise"}, {"staff", "yearly"},
	}, p.Uses(), "with all that it is made of")
	require.Equal(t, catalog.Money, p.Derived["rise"].Ref.Field.Type)

	p, err = checkCrew(defs, column("port.size"))
	require.NoError(t, err)
	require.Equal(t, "Port size", p.Columns[0].Ref.Label)
	require.Equal(t, [][2]string{{"ports", "size"}, {"ports", "space"}}, p.Uses())

	doc := column("x")
	doc.Calculated = []view.Calculated{{Key: "x", Label: "X", Formula: "Pay / 'Port space'"}}
	p, err = checkCrew(defs, doc)
	require.NoError(t, err)
	require.Equal(t, [][2]string{{"ports", "space"}}, p.Uses())

	var paths []string
	for _, f := range defs.Fields(crew, "staff", p) {
		paths = append(paths, f.Ref.Path)
	}
	require.Equal(t, []string{"yearly", "rise", "port.space", "port.size"}, paths)

	// What a view makes itself comes first.
	doc = column("yearly")
	doc.Calculated = []view.Calculated{{Key: "yearly", Label: "Pay a year", Formula: "1"}}
	p, err = checkCrew(defs, doc)
	require.NoError(t, err)
	require.Empty(t, p.Uses())
	require.Equal(t, catalog.Whole, p.Columns[0].Ref.Field.Type)

	p, err = checkCrew(defs, column("name"))
	require.NoError(t, err)
	require.Empty(t, p.Derived, "what a view does not use is not worked out for it")
}

func TestFaultsOfDefinitions(t *testing.T) {
	calculated := func(key, formula string) view.Calculated {
		return view.Calculated{Key: key, Label: key, Formula: formula}
	}
	for want, c := range map[string]struct {
		defs Definitions
		path string
	}{
		`definitions.a: "a" is made of itself: a uses b uses a; take one of them out of the other`: {
			Definitions{"staff": DefinedBy(view.Document{Calculated: []view.Calculated{calculated("a", "b + 1"), calculated("b", "a + 1")}})},
			"a"},
		`definitions.a: "a" is made of itself: a uses b uses a; take one of them out of the other `: {
			Definitions{
				"staff": DefinedBy(view.Document{Calculated: []view.Calculated{calculated("a", "port.b + 1")}}),
				"ports": DefinedBy(view.Document{Calculated: []view.Calculated{calculated("b", "keeper.a + 1")}}),
			},
			"a"},
		`definitions.all: all is calculated from totals of ports, which a view of other records does not have`: {
			Definitions{"ports": DefinedBy(view.Document{Calculated: []view.Calculated{calculated("all", "SUM(Berths)")}})}, "port.all"},
		`definitions.bad.formula: bad: at character 5: there is no field 'Berth'; did you mean "Berths"?`: {
			Definitions{"ports": DefinedBy(view.Document{Calculated: []view.Calculated{calculated("bad", "1 + Berth")}})}, "port.bad"},
		`columns[0].field: Ports have no field "gone"`: {Definitions{}, "port.gone"},
	} {
		_, err := checkCrew(c.defs, column(c.path))
		require.Error(t, err)
		require.Contains(t, err.Error()+" ", want)
	}
}

// Whatever a document and its definitions say, checking ends with a plan or with
// faults that have a place.
func FuzzCheck(f *testing.F) {
	f.Add(
		`{"gavrik":1,"records":"staff","columns":[{"field":"port.d"}]}`, "'Keeper d' + Berths", "0",
		"port.keeper.d",
	)
	f.Add(
		`{"gavrik":1,"records":"staff","columns":[{"field":"d","totals":[{"fn":"sum","show":"rank"}]}],"groups":[{"field":"b"}]}`,
		"SUM(d)", "-1", "pay",
	)
	f.Add(
		`{"gavrik":1,"records":"ports","calculated":[{"key":"b","label":"b","formula":"b","unit":"money","decimals":9}],"columns":[]}`,
		"1/0", "x", "d",
	)
	f.Fuzz(func(t *testing.T, doc, formula, bound, of string) {
		d, err := view.Parse([]byte(doc))
		if err != nil {
			return
		}
		made := DefinedBy(view.Document{
			Calculated: []view.Calculated{{Key: "d", Label: "d", Formula: formula}},
			Buckets: []view.Bucket{
				{Key: "b", Label: "b", Of: of, Bands: []view.Band{{Below: bound}, {From: bound}}},
			},
			Linked: []view.LinkedValue{{Key: "l", Label: "l", Records: of, By: bound, Take: "sum", Field: formula}},
		})
		p, err := CheckWith(d, crew, Definitions{"staff": made, "ports": made}, calendar.Calendar{})
		if err == nil {
			require.NotNil(t, p)
			p.Uses()
			return
		}
		faults, ok := err.(Faults)
		require.True(t, ok)
		for _, fault := range faults {
			require.NotEmpty(t, fault.Message)
			require.LessOrEqual(t, fault.From, fault.To)
		}
	})
}
