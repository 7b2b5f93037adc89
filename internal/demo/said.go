package demo

import (
	"context"
	_ "embed" // for the view below
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/facts"
	"gavrik/internal/store"
)

// docks is the view of dry docks, which uses the facts below.
//
//go:embed facts/docks.json
var docks []byte

// sayOfRecords mends some labels of the application's, adds what it does not hold, and a view of that.
func sayOfRecords(ctx context.Context, s *store.Store, owner store.Person, now time.Time) error {
	miles := "Nautical miles from port to port."
	for set, said := range map[string]*description.SetWords{
		"routes":   {Fields: map[string]*description.FieldWords{"distance_nm": {Label: "Distance", Meaning: &miles}}},
		"sailings": {Fields: map[string]*description.FieldWords{"car_deck_free_m": {Label: "Free on the car deck"}}},
	} {
		if _, err := s.Describe(ctx, owner.Name, set, 0, said); err != nil {
			return err
		}
	}
	if err := s.SetStandard(ctx, owner.ID, store.Standard{Records: "vessels", Columns: []string{
		"name", "picture", "built_on", "passengers", "car_deck_m", "certificate_expires_on", "in_service",
	}}); err != nil {
		return err
	}
	analysts := facts.Fillers{Role: string(store.Analyst)}
	for _, f := range []*facts.Fact{
		{
			Key: "dry_dock", Label: "Dry dock", Meaning: "Where the vessel is booked in next.", Type: catalog.Text,
			Choices: []string{"Oxley slip", "St Brannoc yard"}, By: "name", Fill: analysts,
		},
		{
			Key: "dry_dock_from", Label: "Dry dock from", Meaning: "First day that the vessel is booked into the dry dock.",
			Type: catalog.Date, By: "name", Fill: analysts,
		},
	} {
		if err := s.AddFact(ctx, owner.Name, "vessels", f); err != nil {
			return err
		}
	}
	// Whoever has limits sees them, too.
	if err := s.Know(ctx, []store.SensitiveField{
		{Set: "vessels", Field: "dry_dock"}, {Set: "vessels", Field: "dry_dock_from"},
	}, true); err != nil {
		return err
	}
	all, err := s.Facts(ctx)
	if err != nil {
		return err
	}
	booked := []struct {
		vessel, where string
		days          int
	}{{"Grey Petrel", "Oxley slip", -3}, {"Marrow Star", "St Brannoc yard", 12}, {"Tarn Heron", "Oxley slip", 41}, {"Lady of Venn", "St Brannoc yard", 120}}
	for _, f := range all {
		var fills []store.Fill
		for _, b := range booked {
			value := b.where
			if f.Body.Type == catalog.Date {
				value = now.AddDate(0, 0, b.days).Format("2006-01-02")
			}
			fills = append(fills, store.Fill{Record: b.vessel, Value: value})
		}
		if _, err := s.FillIn(ctx, owner, f.ID, fills); err != nil {
			return err
		}
	}
	_, err = s.AddView(ctx, owner.ID, store.NewVersion{
		Name: "Dry docks within 45 days", Description: "What is due in the yard soon, or should be there already.", Document: docks,
	}, store.WithEveryone)
	return err
}
