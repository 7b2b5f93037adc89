package demo

import (
	"context"
	"embed"
	"fmt"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Password is everybody's in the demo, which is served on loopback only.
const Password = "marrowby-sound"

// Person is somebody who can sign in to the demo.
type Person struct {
	Email, Name   string
	Administrator bool
}

// People can sign in to the demo.
var People = []Person{
	{"tamsin@marrowby.example", "Tamsin Marlow", true},
	{"jory@marrowby.example", "Jory Hale", false},
}

// A demo view is a document, named and described in a list below.
//
//go:embed views/*.json
var viewFiles embed.FS

var views = []struct {
	file, name, description string
}{
	{"late.json", "Late sailings, last 30 days", "Sailings that left more than a quarter of an hour late, for the morning round."},
	{"fares.json", "Fares by route and month", "What was booked, by route and by month of sailing, for the last six full months."},
	{"claims.json", "Open claims by route", "What is still asked of us, the largest first."},
}

// Populate adds the demo's people and their views, once.
func Populate(ctx context.Context, s *store.Store, desk *people.Desk) error {
	if n, err := s.People(ctx); err != nil || n > 0 {
		return err
	}
	for _, p := range People {
		if err := desk.Add(ctx, p.Email, p.Name, Password, p.Administrator); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	owner, err := s.PersonByEmail(ctx, People[0].Email)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	for _, v := range views {
		doc, err := viewFiles.ReadFile("views/" + v.file)
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		key, err := s.AddView(ctx, owner.ID, store.Draft{Name: v.name, Description: v.description, Document: doc, Shared: true})
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		if err := s.SetFavorite(ctx, owner.ID, key, true, true); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	return nil
}
