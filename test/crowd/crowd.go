// Package crowd is people at work on a Gavrik, for what measures one.
package crowd

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"slices"
	"time"

	"gavrik/internal/demo"
)

// Took is how long an answer took, or why there was none.
type Took struct {
	Time time.Duration
	Err  error
}

// Report prints how long answers took.
func Report(what string, all []Took) {
	var good []time.Duration
	for _, t := range all {
		if t.Err == nil {
			good = append(good, t.Time)
		} else if len(all)-len(good) < 4 {
			fmt.Fprintln(os.Stderr, t.Err)
		}
	}
	slices.Sort(good)
	at := func(q float64) string {
		if len(good) == 0 {
			return "–"
		}
		return fmt.Sprintf("%.1f ms", good[min(len(good)-1, int(q*float64(len(good))))].Seconds()*1e3)
	}
	fmt.Printf("%-24s %8d %10s %10s %10s %8d\n", what, len(all), at(0.5), at(0.95), at(1), len(all)-len(good))
}

// Person is one signed-in person with her browser. One goroutine uses it.
type Person struct {
	*rand.Rand
	base     string
	client   *http.Client
	draft    string
	revision int
	states   int
}

// Gather lets people in: a third sees the bookings of one port only.
func Gather(ctx context.Context, base string, n int) ([]*Person, error) {
	admin := New(base, 0)
	if err := admin.SignIn(demo.People[0].Email, demo.Password); err != nil {
		return nil, err
	}
	var groups struct {
		Groups []struct {
			ID   int64
			Name string
		}
	}
	if err := admin.Send("GET", "/api/groups", nil, &groups); err != nil {
		return nil, err
	}
	ports := []string{"Port Anselm", "Harrow Strand", "Tarn Head", "Mulberry Quay", "St Brannoc", "Venn Isle"}
	out := make([]*Person, n)
	for i := range out {
		var in struct {
			Person struct{ ID int64 }
			Fresh  string
		}
		email := fmt.Sprintf("crowd%d@marrowby.example", i)
		if err := admin.Send("POST", "/api/people", map[string]any{
			"email": email, "name": fmt.Sprint("Somebody ", i), "role": "analyst", "password": true,
		}, &in); err != nil {
			return nil, err
		}
		for _, g := range groups.Groups {
			if i%3 == 0 && g.Name == "Port agents" {
				change := map[string]any{
					"name": fmt.Sprint("Agent ", i), "role": "analyst", "groups": []int64{g.ID},
					"traits": map[string]string{"port": ports[i/3%len(ports)]},
				}
				if err := admin.Send("PUT", fmt.Sprint("/api/people/", in.Person.ID), change, nil); err != nil {
					return nil, err
				}
			}
		}
		out[i] = New(base, i)
		if err := out[i].SignIn(email, in.Fresh); err != nil {
			return nil, err
		}
	}
	return out, ctx.Err()
}

// New is somebody who has not signed in yet; number tells people apart.
func New(base string, number int) *Person {
	return &Person{
		Rand: rand.New(rand.NewPCG(uint64(number), 7)), base: base, client: &http.Client{Timeout: time.Minute},
		draft: fmt.Sprintf("crowdpart%d", number),
	}
}

// SignIn opens a session.
func (p *Person) SignIn(email, password string) (err error) {
	if p.client.Jar, err = cookiejar.New(nil); err != nil {
		return err
	}
	var me struct{ Changing bool }
	if err := p.Send("POST", "/api/session", map[string]any{
		"email": email, "password": password,
	}, &me); err != nil || !me.Changing {
		return err
	}
	// Somebody else has chosen it.
	return p.Send("PUT", "/api/password", map[string]any{"old": password, "new": password + "-mine"}, nil)
}

// Change sends what the bench sends when a filter changes: it asks for the first lines,
// and keeps the draft.
func (p *Person) Change() map[string]Took {
	doc := p.Document()
	p.states++
	draft := map[string]any{
		"place": "/new/bookings", "title": "New view of bookings", "base": 0,
		"state": fmt.Sprintf("%sstate%06d", p.draft, p.states), "revision": p.revision, "document": doc,
	}
	var kept struct{ Revision int }
	out := map[string]Took{
		"first lines of a view": p.timed(func() error {
			return p.Send("POST", "/api/run", map[string]any{"view": doc, "depth": 1, "limit": 100}, nil)
		}),
		"draft kept": p.timed(func() error { return p.Send("PUT", "/api/drafts/"+p.draft, draft, &kept) }),
	}
	p.revision = kept.Revision
	return out
}

func (p *Person) timed(do func() error) Took {
	started := time.Now()
	err := do()
	return Took{time.Since(started), err}
}

// Document is a view of bookings with filters that hardly anybody else has just now.
func (p *Person) Document() map[string]any {
	pick := func(list ...string) string { return list[p.IntN(len(list))] }
	return map[string]any{
		"gavrik": 1, "records": "bookings",
		"filter": map[string]any{"all": []any{
			map[string]any{"field": "fare", "op": "over", "value": fmt.Sprintf("%d.%02d", p.IntN(400), p.IntN(100))},
			map[string]any{
				"field": "status", "op": "none_of", "values": []string{pick("Cancelled", "No-show", "Waiting list")},
			},
			map[string]any{
				"field": "sailing.departs_at", "op": "in",
				"period": map[string]any{"which": "past", "unit": "day", "n": 30 + p.IntN(700)},
			},
		}},
		"columns": []any{
			map[string]any{"field": "ref"}, map[string]any{"field": "customer.name"},
			map[string]any{"field": "channel"},
			map[string]any{
				"field": "fare", "totals": []any{map[string]any{"fn": "sum"}, map[string]any{"fn": "average"}},
			},
			map[string]any{"field": "passengers", "totals": []any{map[string]any{"fn": "sum"}}},
		},
		"groups": []any{
			map[string]any{"field": pick("sailing.route.name", "sailing.vessel.name", "channel", "status")},
			map[string]any{"field": "booked_at", "unit": "month"},
		},
		"sort": []any{map[string]any{"field": "fare", "desc": true}},
	}
}

// Fetch reads what is at a path.
func (p *Person) Fetch(path string) (text string, err error) {
	res, err := p.client.Get(p.base + path)
	if err != nil {
		return "", err
	}
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode >= 400 {
		err = fmt.Errorf("GET %s: %w", path, &RefusedError{res.StatusCode, string(answer[:min(len(answer), 300)])})
	}
	return string(answer), err
}

// Send sends JSON and reads the answer into got, unless that is nil.
func (p *Person) Send(method, path string, body, got any) error {
	text, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return p.SendWithin(context.Background(), method, path, text, got)
}

// RefusedError is an answer other than success.
type RefusedError struct {
	Code   int
	Answer string
}

func (e *RefusedError) Error() string { return fmt.Sprintf("%d %s", e.Code, e.Answer) }

// SendWithin sends a body as it is. The error is a *RefusedError for an answer of 400 or
// more.
func (p *Person) SendWithin(ctx context.Context, method, path string, text []byte, got any) error {
	r, err := http.NewRequestWithContext(ctx, method, p.base+path, bytes.NewReader(text))
	if err != nil {
		return err
	}
	r.Header.Set("Content-Type", "application/json")
	res, err := p.client.Do(r)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	if res.StatusCode >= 400 {
		return fmt.Errorf("%s %s: %w", method, path, &RefusedError{
			res.StatusCode, string(answer[:min(len(answer), 300)]),
		})
	}
	if got == nil {
		return nil
	}
	return json.Unmarshal(answer, got)
}
