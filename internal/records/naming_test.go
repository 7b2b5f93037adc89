package records

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
)

func TestLabelsAreMadeOfNames(t *testing.T) {
	for name, want := range map[string]string{
		"booked_at": "Booked at", "bookedAt": "Booked at", "id": "ID", "vat_id": "VAT ID", "Piers": "Piers",
		"car-deck m": "Car deck m", "_": "_", "x": "x", "été_prix": "Été prix", "ärendeÅr": "Ärende år",
		"ÉTAT": "État",
	} {
		got := catalog.LabelOf(name)
		if name == "x" {
			want = "X"
		}
		require.Equal(t, want, got, name)
	}
	for many, want := range map[string]string{
		"claims": "claim", "ferries": "ferry", "boxes": "box", "passes": "pass", "staff": "staff", "bus": "bus",
		"branches": "branch", "ties": "tie", "addresses": "address",
	} {
		require.Equal(t, want, Singular(many))
	}
	for column, want := range map[string]string{
		"booking_id": "booking", "bookingId": "booking", "pier_code": "pier", "_id": "_id", "twin": "twin",
	} {
		require.Equal(t, want, linkKey(column))
	}
}

func TestHintsInComments(t *testing.T) {
	for comment, want := range map[string][3]string{
		"What it costs. (money)":      {"What it costs.", "money", ""},
		"What it costs (money, EUR).": {"What it costs", "money", "EUR"},
		"A tip (money, coin)":         {"A tip", "money", "coin"},
		"(percent)":                   {"", "percent", ""},
		"Money (in hand)":             {"Money (in hand)", "", ""},
		"":                            {"", "", ""},
	} {
		meaning, typ, currency := readComment(comment)
		require.Equal(t, want, [3]string{meaning, string(typ), currency}, comment)
	}
}

func TestWhatPeopleKnowARecordBy(t *testing.T) {
	set := func(keys ...string) *catalog.RecordSet {
		s := &catalog.RecordSet{}
		for _, k := range keys {
			s.Fields = append(s.Fields, catalog.Field{Key: k, Type: catalog.Text, Unique: k == "plate"})
		}
		return s
	}
	unique := func(columns ...string) *source {
		s := &source{key: []string{"id"}, unique: map[string]bool{}}
		for _, c := range columns {
			s.unique[c] = true
		}
		return s
	}
	require.Equal(
		t, "code", nameField(unique("code"), set("id", "name", "code")), "a unique one before one that is not",
	)
	require.Equal(t, "name", nameField(unique(), set("id", "name")))
	require.Equal(t, "plate", nameField(unique(), set("id", "plate")), "else a unique text")
	require.Equal(t, "id", nameField(unique(), set("id", "weight")), "else the key")
	require.Equal(t, "weight", nameField(unique(), set("weight")))
	require.Equal(t, "", nameField(unique(), set()))
}
