package demo

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"time"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Password is everybody's in the demo, which is served on loopback only.
const Password = "marrowby-sound"

// Person is somebody who can sign in to the demo.
type Person struct {
	Email, Name string
	Role        store.Role
}

// People can sign in to the demo.
var People = []Person{
	{"tamsin@marrowby.example", "Tamsin Marlow", store.Administrator},
	{"jory@marrowby.example", "Jory Hale", store.Analyst},
	{"wen@marrowby.example", "Wen Aske", store.Reader},
}

// A demo view is a document, named and described in a list below.
//
//go:embed views/*.json
var viewFiles embed.FS

// definitionFile holds the definitions that the views share.
//
//go:embed definitions.json
var definitionFile []byte

var views = []struct {
	file, name, description string
	favorite                bool
}{
	{"one_route.json", oneRoute, "What passengers of a route ask for, by kind of claim.", false},
	{"by_month.json", "Claims by month", "What was asked of us, month by month and by kind of claim.", false},
	{"crossings.json", "Passengers by vessel", "The last full month against the one before it.", false},
	{"prices.json", "Prices by item", "What each item was sold at; an item has several prices.", false},
	{
		"ages.json", "Open claims by age", "How long claims wait, and how much of what is asked is still owed.",
		false,
	},
	{
		"late.json", "Late sailings, last 30 days",
		"Sailings that left more than a quarter of an hour late, for the morning round.", true,
	},
	{
		"fares.json", "Fares by route and month",
		"What was booked, by route and by month of sailing, for the last six full months.", true,
	},
	{"claims.json", "Open claims by route", "What is still asked of us, the largest first.", true},
}

// Populate adds the demo's people and their views, once; dates are told from now on.
func Populate(ctx context.Context, s *store.Store, desk *people.Desk, now time.Time) error {
	if n, err := s.CountPeople(ctx); err != nil || n > 0 {
		return err
	}
	for _, p := range People {
		if _, err := desk.Add(ctx, p.Email, p.Name, Password, p.Role); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	owner, err := s.PersonByEmail(ctx, People[0].Email)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	if err := addGroups(ctx, s); err != nil {
		return fmt.Errorf("demo: groups: %w", err)
	}
	if err := addDefinitions(ctx, s, owner.ID); err != nil {
		return err
	}
	docs, err := Views()
	if err != nil {
		return err
	}
	keys := map[string]string{}
	for _, v := range views {
		key, err := s.AddView(ctx, owner.ID, store.NewVersion{
			Name: v.name, Description: v.description, Document: docs[v.file],
		}, store.WithEveryone)
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		keys[v.name] = key
		if v.name == oneRoute {
			if err := s.Mark(ctx, owner.ID, key, "Claims", "", true); err != nil {
				return fmt.Errorf("demo: %w", err)
			}
		}
		if !v.favorite {
			continue
		}
		if err := s.SetFavorite(ctx, owner.ID, key, store.Whose{Everyone: true}, true); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	if err := addBoard(ctx, s, owner.ID, keys); err != nil {
		return fmt.Errorf("demo: board: %w", err)
	}
	if err := addRounds(ctx, s, keys, now); err != nil {
		return fmt.Errorf("demo: rounds: %w", err)
	}
	if err := sayOfRecords(ctx, s, owner, now); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	if err := bringPricesIn(ctx, s, owner, now); err != nil {
		return fmt.Errorf("demo: price list: %w", err)
	}
	return nil
}

// oneRoute is the demo's template.
const oneRoute = "Claims of a route"

// ownPort keeps the bookings of sailings from the reader's own port.
const ownPort = `{"gavrik": 1, "records": "bookings", "columns": [],
	"filter": {"field": "sailing.route.from_port.name", "op": "one_of", "ask": {"name": "port", "label": "Port", "required": true}}}`

// addGroups makes two groups: the claims desk sees what is sensitive; agents see the
// bookings from their own port, no staff, and not what was paid on claims.
func addGroups(ctx context.Context, s *store.Store) error {
	if err := s.MarkSensitive(ctx, store.SensitiveField{Set: "customers", Field: "email"}, true); err != nil {
		return err
	}
	desk, err := s.AddGroup(ctx, store.Group{
		Name: "Claims desk", Description: "Handles claims, and writes to customers.", Sensitive: true,
	})
	if err != nil {
		return err
	}
	agents, err := s.AddGroup(ctx, store.Group{Name: "Port agents", Description: "At the counters, each for the bookings from one port.", Limits: []store.Limit{
		{Set: "bookings", Rule: []byte(ownPort)}, {Set: "claims", Fields: []string{"paid"}},
		{Set: "staff", Hidden: true},
	}})
	if err != nil {
		return err
	}
	for _, in := range []struct {
		email, port string
		group       int64
	}{{People[1].Email, "", desk}, {People[2].Email, "Harrow Strand", agents}} {
		p, err := s.PersonByEmail(ctx, in.email)
		if err != nil {
			return err
		}
		p.Groups = []store.GroupName{{ID: in.group}}
		if in.port != "" {
			p.Traits = map[string]string{"port": in.port}
		}
		if err := s.ChangePerson(ctx, p, false); err != nil {
			return err
		}
	}
	return nil
}

// Definition is one that the demo's views share.
type Definition struct {
	Records, Key string
	Body         json.RawMessage // as it is stored
}

// Definitions are those that the demo's views share.
func Definitions() ([]Definition, error) {
	var all []Definition
	if err := json.Unmarshal(definitionFile, &all); err != nil {
		return nil, fmt.Errorf("demo: definitions: %w", err)
	}
	for i, d := range all {
		var made map[string]struct{ Key string }
		if err := json.Unmarshal(d.Body, &made); err != nil {
			return nil, fmt.Errorf("demo: definitions: %w", err)
		}
		for _, one := range made { // there is one
			all[i].Key = one.Key
		}
	}
	return all, nil
}

// Views are the documents of the demo's views, by the names of their files.
func Views() (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, v := range views {
		doc, err := viewFiles.ReadFile("views/" + v.file)
		if err != nil {
			return nil, fmt.Errorf("demo: %w", err)
		}
		out[v.file] = doc
	}
	return out, nil
}

func addDefinitions(ctx context.Context, s *store.Store, owner int64) error {
	all, err := Definitions()
	if err != nil {
		return err
	}
	for _, d := range all {
		if err := s.AddDefinition(ctx, owner, d.Records, d.Key, d.Body); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	return nil
}
