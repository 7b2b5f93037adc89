package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"gavrik/test/crowd"
)

// patience is how long the abuser waits for an answer before going away.
const patience = 25 * time.Second

// scene is who takes part.
type scene struct {
	ctx           context.Context
	url           string
	abuser, admin *crowd.Person
	others        *others
}

// abuse is one thing that somebody does; do says how it was answered.
type abuse struct {
	name string
	do   func(c *scene) string
}

// slow says that it is left out of a soak: it takes the machine for a while on purpose.
func (a abuse) slow() bool {
	return strings.Contains(a.name, "loads") || strings.Contains(a.name, "saves") ||
		strings.Contains(a.name, "silent") || strings.Contains(a.name, "wrong passwords")
}

func sortDurations(d []time.Duration) { slices.Sort(d) }

// say sends something and tells the answer in a word or two.
func (c *scene) say(method, path string, body any) string {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(body); err != nil {
		return err.Error()
	}
	ctx, cancel := context.WithTimeout(c.ctx, patience)
	defer cancel()
	err := c.abuser.SendWithin(ctx, method, path, b.Bytes(), nil)
	var refused *crowd.RefusedError
	switch {
	case err == nil:
		return "200"
	case errors.As(err, &refused):
		var problem struct{ Detail string }
		_ = json.Unmarshal([]byte(refused.Answer), &problem)
		return fmt.Sprintf("%d %.80s", refused.Code, problem.Detail)
	case errors.Is(err, context.DeadlineExceeded):
		return "no answer"
	}
	return "the connection broke"
}

type object = map[string]any

func bookings(extra object) object {
	doc := object{"gavrik": 1, "records": "bookings", "columns": []any{object{"field": "ref"}}}
	for k, v := range extra {
		doc[k] = v
	}
	return doc
}

func (c *scene) run(doc object) string {
	return c.say("POST", "/api/run", object{"view": doc, "depth": 0, "limit": 50})
}

func formula(key, text string) object { return object{"key": key, "label": key, "formula": text} }

// calculated runs a view that shows a formula.
func (c *scene) calculated(text string) string {
	return c.run(bookings(
		object{"calculated": []any{formula("x", text)}, "columns": []any{object{"field": "x"}}},
	))
}

func sum(field string) object {
	return object{"field": field, "totals": []any{object{"fn": "sum"}, object{"fn": "average"}}}
}

// all does several things at once and tells the different answers.
func all(n int, do func(i int) string) string {
	var group sync.WaitGroup
	var mu sync.Mutex // protects answers
	answers := map[string]int{}
	for i := range n {
		group.Go(func() {
			a := do(i)
			mu.Lock()
			defer mu.Unlock()
			answers[a[:min(len(a), 40)]]++
		})
	}
	group.Wait()
	var out []string
	for a, n := range answers {
		out = append(out, fmt.Sprintf("%d × %s", n, a))
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

var abuses = []abuse{
	{
		"a formula that rounds to hundreds",
		func(c *scene) string { return c.calculated(`'Ref' & ROUND('Fare'; -2)`) },
	},
	{"a look at the largest number", func(c *scene) string {
		doc := bookings(object{"calculated": []any{formula("x", "9223372036854775807")}})
		return c.say("POST", "/api/formula", object{"view": doc, "key": "x"})
	}},
	{"23 texts, each twice the one before", func(c *scene) string {
		var made []any
		for i := range 23 {
			before := "'Ref'"
			if i > 0 {
				before = fmt.Sprintf("a%d", i-1)
			}
			made = append(made, formula(fmt.Sprintf("a%d", i), before+" & "+before))
		}
		return c.run(bookings(object{"calculated": made, "columns": []any{object{"field": "a22"}}}))
	}},
	{"replacing each letter by the text, six deep", func(c *scene) string {
		text := `'Ref'`
		for range 6 {
			text = `SUBSTITUTE(` + text + `; "0"; ` + `'Ref' & 'Ref' & 'Ref')`
		}
		return c.calculated(text)
	}},
	{"500 texts in capitals, joined", func(c *scene) string {
		return c.calculated(strings.TrimSuffix(strings.Repeat("UPPER('Ref')&", 500), "&"))
	}},
	{"a first value of first values, 24 deep", func(c *scene) string {
		return c.calculated(strings.Repeat("COALESCE(", 24) + "'Fare'" + strings.Repeat("; 1)", 24))
	}},
	{"a chart of customers by day", func(c *scene) string {
		return c.run(bookings(
			object{
				"groups": []any{object{"field": "customer.ref"}, object{"field": "booked_at", "unit": "day"}},
				"chart":  object{"field": "", "order": "largest"},
			},
		))
	}},
	{"a crosstab with a comparison by filter, drawn", func(c *scene) string {
		return c.run(bookings(object{"columns": []any{sum("fare")}, "groups": []any{
			object{"field": "channel"},
		}, "across": []any{object{"field": "status"}}, "chart": object{"field": "fare"},
			"compare": object{"with": "filter", "filter": object{"field": "fare", "op": "over", "value": "10"}}}))
	}},
	{"a large crosstab, its filter changed 20 times", func(c *scene) string {
		return all(20, func(i int) string {
			return c.run(bookings(object{"columns": []any{sum("fare")}, "groups": []any{
				object{"field": "customer.ref"},
			}, "across": []any{object{"field": "booked_at", "unit": "month"}},
				"filter": object{"field": "fare", "op": "over", "value": fmt.Sprint(i)}}))
		})
	}},
	{"20 heavy formulas of one person", func(c *scene) string {
		return all(20, func(i int) string {
			return c.calculated(fmt.Sprintf(
				`SEARCH("zz%d"; SUBSTITUTE(LOWER('Ref' & 'Customer name'); "a"; "bb") & TEXT('Fare' ^ 1.%d; "#,##0.00")) + LN('Fare' + %d) * SQRT('Fare')`,
				i, i, i+1,
			))
		})
	}},
	{"a draft of 7.4 MB", func(c *scene) string {
		values := []string{}
		for i := range 1_050_000 { // the database writes a space before each
			values = append(values, fmt.Sprintf("%04d", i%10_000))
		}
		doc := bookings(object{"filter": object{"field": "ref", "op": "one_of", "values": values}})
		state := fmt.Sprintf("largestate%d", time.Now().UnixNano())
		kept := c.say("PUT", "/api/drafts/"+state, object{
			"place": "/new/bookings", "title": "x", "base": 0, "state": state, "revision": 0, "document": doc,
		})
		return "kept: " + kept + "; read: " + c.say("GET", "/api/states/"+state, nil)
	}},
	{"300 made-up methods", func(c *scene) string {
		client := &http.Client{Timeout: patience}
		for i := range 300 {
			r, err := http.NewRequest(fmt.Sprintf("X%d%s", i, strings.Repeat("Y", 500_000)), c.url+"/api/session", nil)
			if err != nil {
				return err.Error()
			}
			if res, err := client.Do(r); err == nil {
				res.Body.Close()
			}
		}
		return "done"
	}},
	{"60 silent readers of a result", silentReaders},
	{"two saves of a definition", func(c *scene) string {
		for i := range 2 {
			key := fmt.Sprintf("d%d", time.Now().UnixNano())
			if err := c.admin.Send("POST", "/api/definitions", object{
				"records": "vessels", "calculated": formula(key, fmt.Sprintf("%d + 1", i)),
			}, nil); err != nil {
				return err.Error()
			}
			time.Sleep(2 * time.Second)
		}
		return "done"
	}},
	{"18 people of 18 restrictions take turns", restrictions},
	{"three loads of the records", func(c *scene) string {
		for range 3 {
			if err := c.admin.Send("POST", "/api/refresh", nil, nil); err != nil {
				return err.Error()
			}
		}
		return "done"
	}},
	{"400 wrong passwords at once, and one right one", passwords},
}

// silentReaders ask for a file and never read it.
func silentReaders(c *scene) string {
	var made struct{ Token string }
	var saved struct{ Key string }
	columns := []any{}
	for _, f := range []string{
		"ref", "channel", "status", "fare", "booked_at", "customer.name", "customer.email", "sailing.departs_at",
		"sailing.route.name", "sailing.vessel.name",
	} {
		columns = append(columns, object{"field": f})
	}
	err := errors.Join(
		c.admin.Send("POST", "/api/tokens", object{"name": "silent", "days": 1}, &made),
		c.admin.Send("POST", "/api/views", object{
			"name": fmt.Sprint("Silent ", time.Now().UnixNano()), "document": bookings(object{"columns": columns}),
		}, &saved))
	if err != nil {
		return err.Error()
	}
	var open []net.Conn
	defer func() {
		for _, conn := range open {
			conn.Close()
		}
	}()
	for range 60 {
		conn, err := net.Dial("tcp", strings.TrimPrefix(c.url, "http://"))
		if err != nil {
			return err.Error()
		}
		if tcp, ok := conn.(*net.TCPConn); ok {
			_ = tcp.SetReadBuffer(4096) // what the system takes on its own should be little
		}
		open = append(open, conn)
		if _, err := fmt.Fprintf(
			conn, "GET /api/views/%s/result HTTP/1.1\r\nHost: gavrik\r\nAuthorization: Bearer %s\r\n\r\n", saved.Key,
			made.Token,
		); err != nil {
			return err.Error()
		}
	}
	time.Sleep(10 * time.Second)
	return "60 open"
}

// restrictions gives eighteen people each a way of seeing of their own, and lets each
// look once in turn, twice round; the answer is how long the second round took.
func restrictions(c *scene) string {
	ports := []string{"Port Anselm", "Harrow Strand", "Tarn Head", "Mulberry Quay", "St Brannoc", "Venn Isle"}
	var groups struct {
		Groups []struct {
			ID   int64
			Name string
		}
	}
	if err := c.admin.Send("GET", "/api/groups", nil, &groups); err != nil {
		return err.Error()
	}
	agents := groups.Groups[slices.IndexFunc(groups.Groups, func(g struct {
		ID   int64
		Name string
	}) bool {
		return g.Name == "Port agents"
	})].ID
	var people []*crowd.Person
	for i := range 18 {
		var in struct {
			Person struct{ ID int64 }
			Fresh  string
		}
		email := fmt.Sprintf("turn%d-%d@marrowby.example", i, time.Now().UnixNano())
		traits := map[string]string{"port": strings.Join(ports[:1+i%6], ", ")}
		if i >= 6 {
			traits["port"] = ports[i%6] + ", " + ports[(i/6+i)%6]
		}
		err := c.admin.Send("POST", "/api/people", object{
			"email": email, "name": email, "role": "reader", "password": true,
		}, &in)
		if err == nil {
			err = c.admin.Send("PUT", fmt.Sprint("/api/people/", in.Person.ID), object{
				"name": email, "role": "reader", "groups": []int64{agents}, "traits": traits,
			}, nil)
		}
		p := crowd.New(c.url, 200+i)
		if err = errors.Join(err, p.SignIn(email, in.Fresh)); err != nil {
			return err.Error()
		}
		people = append(people, p)
	}
	var second []time.Duration
	for round := range 2 {
		for _, p := range people {
			started := time.Now()
			if err := p.Send("POST", "/api/run", object{
				"view": p.Document(), "depth": 1, "limit": 50,
			}, nil); err != nil {
				return err.Error()
			}
			if round == 1 {
				second = append(second, time.Since(started))
			}
		}
	}
	slices.Sort(second)
	return fmt.Sprintf(
		"second round: median %.1f ms, longest %.1f ms", second[9].Seconds()*1e3, second[17].Seconds()*1e3,
	)
}

// passwords guesses, many at once, and signs in honestly meanwhile.
func passwords(c *scene) string {
	honest := make(chan string, 1)
	go func() {
		time.Sleep(300 * time.Millisecond)
		started := time.Now()
		err := crowd.New(c.url, 300).SignIn("wen@marrowby.example", "marrowby-sound")
		honest <- fmt.Sprintf("honest %.1f s, %v", time.Since(started).Seconds(), err == nil)
	}()
	guesses := all(400, func(i int) string {
		err := crowd.New(c.url, 400+i).SignIn("ines@marrowby.example", fmt.Sprint("guess number ", i))
		var refused *crowd.RefusedError
		if errors.As(err, &refused) {
			return fmt.Sprint(refused.Code)
		}
		return "no answer"
	})
	return guesses + "; " + <-honest
}
