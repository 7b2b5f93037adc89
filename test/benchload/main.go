// Benchload measures how Gavrik answers a crowd: signed-in people on the demo, each of
// whom changes a filter every few seconds, as the bench sends it. Some see all records,
// some only those of their port. The crowd runs in the server's own process, on the same
// cores: make bench-load.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"slices"
	"sync"
	"time"

	"gavrik/internal/demo"
	"gavrik/test/served"
)

func main() {
	crowd := flag.Int("people", 200, "how many are signed in")
	every := flag.Duration("every", 3*time.Second, "time between two changes of one person")
	long := flag.Duration("for", time.Minute, "how long to measure")
	flag.Parse()
	if err := run(*crowd, *every, *long); err != nil {
		fmt.Fprintln(os.Stderr, "bench-load:", err)
		os.Exit(1)
	}
}

// took is how long an answer took, or why there was none.
type took struct {
	time time.Duration
	err  error
}

func run(crowd int, every, long time.Duration) (err error) {
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Minute)
	defer cancel()
	fmt.Println("Making the demo …")
	g, err := served.Start(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, g.Stop()) }()
	fmt.Printf("Letting %d people in …\n", crowd)
	all, err := gather(ctx, g.URL, crowd)
	if err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(ctx, long)
	defer stop()
	var mu sync.Mutex // protects times
	times := map[string][]took{}
	var group sync.WaitGroup
	for _, p := range all {
		group.Go(func() {
			// They do not all begin at once.
			pause := time.After(time.Duration(p.Int64N(int64(every))))
			for {
				select {
				case <-ctx.Done():
					return
				case <-pause:
				}
				pause = time.After(every)
				for what, t := range p.change() {
					mu.Lock()
					times[what] = append(times[what], t)
					mu.Unlock()
				}
			}
		})
	}
	group.Wait()
	fmt.Printf("%d people, each changing a filter every %s, for %s\n\n%-24s %8s %10s %10s %10s %8s\n", crowd, every, long, "", "answers", "median", "95 %", "longest", "errors")
	for _, what := range slices.Sorted(func(yield func(string) bool) {
		for what := range times {
			if !yield(what) {
				return
			}
		}
	}) {
		report(what, times[what])
	}
	return nil
}

func report(what string, all []took) {
	var good []time.Duration
	for _, t := range all {
		if t.err == nil {
			good = append(good, t.time)
		} else if len(all)-len(good) < 4 {
			fmt.Fprintln(os.Stderr, t.err)
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

// someone is one signed-in person with her browser.
type someone struct {
	*rand.Rand
	base     string
	client   *http.Client
	draft    string
	revision int
	states   int
}

// gather lets people in: a third sees the bookings of one port only.
func gather(ctx context.Context, base string, n int) ([]*someone, error) {
	admin := &someone{base: base, client: &http.Client{}}
	if err := admin.signIn(demo.People[0].Email, demo.Password); err != nil {
		return nil, err
	}
	var groups struct {
		Groups []struct {
			ID   int64
			Name string
		}
	}
	if err := admin.send("GET", "/api/groups", nil, &groups); err != nil {
		return nil, err
	}
	ports := []string{"Port Anselm", "Harrow Strand", "Tarn Head", "Mulberry Quay", "St Brannoc", "Venn Isle"}
	out := make([]*someone, n)
	for i := range out {
		var in struct {
			Person struct{ ID int64 }
			Fresh  string
		}
		email := fmt.Sprintf("crowd%d@marrowby.example", i)
		if err := admin.send("POST", "/api/people", map[string]any{"email": email, "name": fmt.Sprint("Somebody ", i), "role": "analyst", "password": true}, &in); err != nil {
			return nil, err
		}
		for _, g := range groups.Groups {
			if i%3 == 0 && g.Name == "Port agents" {
				change := map[string]any{"name": fmt.Sprint("Agent ", i), "role": "analyst", "groups": []int64{g.ID}, "traits": map[string]string{"port": ports[i/3%len(ports)]}}
				if err := admin.send("PUT", fmt.Sprint("/api/people/", in.Person.ID), change, nil); err != nil {
					return nil, err
				}
			}
		}
		out[i] = &someone{Rand: rand.New(rand.NewPCG(uint64(i), 7)), base: base, client: &http.Client{}, draft: fmt.Sprintf("crowdpart%d", i)}
		if err := out[i].signIn(email, in.Fresh); err != nil {
			return nil, err
		}
	}
	return out, ctx.Err()
}

func (p *someone) signIn(email, password string) (err error) {
	if p.client.Jar, err = cookiejar.New(nil); err != nil {
		return err
	}
	return p.send("POST", "/api/session", map[string]any{"email": email, "password": password}, nil)
}

// change sends what the bench sends when a filter changes: it asks for the first lines,
// and keeps the draft.
func (p *someone) change() map[string]took {
	doc := p.document()
	p.states++
	draft := map[string]any{"place": "/new/bookings", "title": "New view of bookings", "base": 0, "state": fmt.Sprintf("%sstate%06d", p.draft, p.states), "revision": p.revision, "document": doc}
	var kept struct{ Revision int }
	out := map[string]took{
		"first lines of a view": p.timed(func() error {
			return p.send("POST", "/api/run", map[string]any{"view": doc, "depth": 1, "limit": 100}, nil)
		}),
		"draft kept": p.timed(func() error { return p.send("PUT", "/api/drafts/"+p.draft, draft, &kept) }),
	}
	p.revision = kept.Revision
	return out
}

func (p *someone) timed(do func() error) took {
	started := time.Now()
	err := do()
	return took{time.Since(started), err}
}

// document is a view of bookings with filters that hardly anybody else has just now.
func (p *someone) document() map[string]any {
	pick := func(list ...string) string { return list[p.IntN(len(list))] }
	return map[string]any{
		"gavrik": 1, "records": "bookings",
		"filter": map[string]any{"all": []any{
			map[string]any{"field": "fare", "op": "over", "value": fmt.Sprintf("%d.%02d", p.IntN(400), p.IntN(100))},
			map[string]any{"field": "status", "op": "none_of", "values": []string{pick("Cancelled", "No-show", "Waiting list")}},
			map[string]any{"field": "sailing.departs_at", "op": "in", "period": map[string]any{"which": "past", "unit": "day", "n": 30 + p.IntN(700)}},
		}},
		"columns": []any{
			map[string]any{"field": "ref"}, map[string]any{"field": "customer.name"}, map[string]any{"field": "channel"},
			map[string]any{"field": "fare", "totals": []any{map[string]any{"fn": "sum"}, map[string]any{"fn": "average"}}},
			map[string]any{"field": "passengers", "totals": []any{map[string]any{"fn": "sum"}}},
		},
		"groups": []any{map[string]any{"field": pick("sailing.route.name", "sailing.vessel.name", "channel", "status")}, map[string]any{"field": "booked_at", "unit": "month"}},
		"sort":   []any{map[string]any{"field": "fare", "desc": true}},
	}
}

// send sends JSON and reads the answer into got, unless that is nil.
func (p *someone) send(method, path string, body, got any) error {
	text, err := json.Marshal(body)
	if err != nil {
		return err
	}
	r, err := http.NewRequest(method, p.base+path, bytes.NewReader(text))
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
		return fmt.Errorf("%s %s: %d %s", method, path, res.StatusCode, answer)
	}
	if got == nil {
		return nil
	}
	return json.Unmarshal(answer, got)
}
