package api

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// send sends a file in parts; it returns its id.
func (c *client) send(name, text string) string {
	c.t.Helper()
	made := c.do("POST", "/api/uploads", map[string]any{"file": name, "size": len(text)})
	require.Equal(c.t, 201, made.code, made.text)
	id := made.body["id"].(string)
	c.header["Content-Type"] = "application/octet-stream"
	defer delete(c.header, "Content-Type")
	const part = 4 << 20
	for at := 0; at < len(text); at += part {
		a := c.do("PUT", fmt.Sprintf("/api/uploads/%s/parts?at=%d", id, at), text[at:min(at+part, len(text))])
		require.Equal(c.t, 200, a.code, a.text)
	}
	return id
}

// read lets a file be read as a look would have it, by a key, and waits for what came of it.
func (c *client) read(id, into string, by ...string) map[string]any {
	c.t.Helper()
	send := map[string]any{"settings": map[string]any{}}
	if into != "" {
		send["into"] = into
	}
	look := c.do("POST", "/api/uploads/"+id+"/look", send)
	require.Equal(c.t, 200, look.code, look.text)
	recipe := look.body["recipe"].(map[string]any)
	if len(by) > 0 {
		recipe["by"] = by
	}
	for _, one := range recipe["fields"].([]any) {
		if f := one.(map[string]any); f["heading"] == "Surcharge EUR" { // a word among so few is no amount
			f["type"], f["way"], f["currency"], f["label"] = "money", "comma", "EUR", "Surcharge"
		}
	}
	job := map[string]any{"recipe": recipe}
	if into != "" {
		job["into"] = into
	}
	a := c.do("POST", "/api/uploads/"+id+"/read", job)
	require.Equal(c.t, 202, a.code, a.text)
	var now map[string]any
	require.Eventually(c.t, func() bool {
		now = c.do("GET", "/api/uploads/"+id, nil).body
		return now["state"] != "reading"
	}, time.Minute, 5*time.Millisecond)
	require.Equal(c.t, "read", now["state"], now)
	return now["outcome"].(map[string]any)
}

// bring brings a file that was read in.
func (c *client) bring(id string, how map[string]any) answer {
	c.t.Helper()
	return c.do("POST", "/api/uploads/"+id+"/bring-in", how)
}

const surcharges = "Code;Surcharge EUR;From\nA;1,50;1.3.2026\nB;much;1.4.2026\nC;3,00;1.5.2026\nC;4,00;1.6.2026\n"

// A file that somebody brings in is hers alone, until she lets others see it: not even its name is
// told before. A later file changes what it says it changes; what was kept aside is mended.
func TestAFileBroughtIn(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	id := jory.send("surcharges.csv", surcharges)
	tamsin.do("GET", "/api/uploads/"+id, nil).refused(t, 404, "not on its way in")
	outcome := jory.read(id, "", "code")
	require.Equal(t, [2]any{2.0, 2.0}, [2]any{outcome["rows"], outcome["aside"]})
	jory.bring(id, map[string]any{"name": "bookings"}).refused(t, 422, "There are records called “Bookings” already")
	a := jory.bring(id, map[string]any{"name": "Surcharges of winter", "one": "surcharge"})
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, "surcharges_of_winter", a.body["set"])
	set := "surcharges_of_winter"
	at := "/api/brought-in/" + set

	view := document(set, map[string]any{"field": "surcharge_eur", "totals": []any{map[string]any{"fn": "sum"}}})
	sees := func(c *client) bool {
		run := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 10, "plain": true})
		require.Contains(t, []int{200, 422}, run.code, run.text)
		return run.code == 200
	}
	run := jory.do("POST", "/api/run", map[string]any{"view": view, "depth": 1, "limit": 10, "plain": true})
	require.Equal(t, 200, run.code, run.text)
	require.Contains(t, run.text, "4.50", "at once, without loading again")
	require.True(t, sees(tamsin), "administrators see it")
	require.False(t, sees(wen))
	for _, path := range []string{"/api/catalog", "/api/brought-in", "/api/catalog/bookings/fields", "/api/find?q=surcharges"} {
		require.NotContains(t, strings.ToLower(wen.do("GET", path, nil).text), "surcharge", path)
	}
	wen.do("PUT", at+"/shares", map[string]any{"shares": everyone}).refused(t, 403, "")
	other := added(t, g, tamsin, "analyst")
	other.do("DELETE", at, nil).refused(t, 404, "There is no such record set")

	require.Equal(t, 204, jory.do("PUT", at+"/shares", map[string]any{"shares": everyone}).code)
	require.True(t, sees(wen))
	other.do("DELETE", at, nil).refused(t, 403, "Ask Jory Hale")
	require.Equal(t, 204, tamsin.do("POST", "/api/refresh", nil).code)
	require.True(t, sees(wen), "it is there after all records were loaded again")

	// What was kept aside: shown, taken away as a file, mended.
	wen.do("GET", at+"/aside", nil).refused(t, 403, "")
	aside := jory.do("GET", at+"/aside", nil)
	rows := aside.body["rows"].([]any)
	require.Len(t, rows, 2)
	first := rows[0].(map[string]any)
	require.Equal(t, [2]any{3.0, "B;much;1.4.2026"}, [2]any{first["line"], first["content"]})
	require.Equal(t, "line 4 has the same key already (Code)", rows[1].(map[string]any)["reason"])
	file := jory.do("GET", at+"/aside.csv", nil)
	require.Equal(t, "Code,Surcharge EUR,From,Line,Why it was kept aside\nB,much,1.4.2026,3,\"Surcharge EUR cannot be read: \"\"much\"\" is not a number written as 1.234,56\"\n"+
		"C,\"4,00\",1.6.2026,5,line 4 has the same key already (Code)\n", file.text)
	first["content"] = "B;2,25;1.4.2026"
	second := rows[1].(map[string]any)
	second["content"] = "D;four;1.6.2026"
	mended := jory.do("POST", at+"/aside", map[string]any{"rows": rows})
	require.Equal(t, 1.0, mended.body["in"], mended.text)
	left := jory.do("GET", at+"/aside", nil).body["rows"].([]any)
	require.Len(t, left, 1)
	require.Equal(t, "D;four;1.6.2026", left[0].(map[string]any)["content"], "what was typed is kept")
	jory.do("POST", at+"/aside", map[string]any{"rows": []any{first}}).refused(t, 409, "Somebody else has brought one of these rows in")

	// A later file: with a further column, without one, with a record changed, new and missing.
	id = jory.send("summer.csv", "code,surcharge eur,Deck\nA,\"1,50\",2\nC,\"3,75\",1\nE,\"9,00\",3\n")
	outcome = jory.read(id, set)
	d := outcome["differences"].(map[string]any)
	require.Equal(t, []any{1.0, 1.0, 1.0, 1.0}, []any{d["new"], d["changed"], d["same"], d["missing"]})
	require.Equal(t, map[string]any{"key": "C", "field": "Surcharge", "before": "3.00", "after": "3.75"}, d["changedOnes"].([]any)[0])
	require.Equal(t, []any{"B"}, d["missingOnes"])
	// Somebody else is faster.
	sooner := tamsin.send("sooner.csv", "Code,Surcharge EUR\nB,\"2,50\"\n")
	tamsin.read(sooner, set)
	require.Equal(t, 200, tamsin.bring(sooner, map[string]any{"missing": "leave"}).code)
	jory.bring(id, map[string]any{"missing": "leave"}).refused(t, 409, "have changed since the file was compared")
	jory.read(id, set)
	require.Equal(t, 200, jory.bring(id, map[string]any{"missing": "leave"}).code)
	require.Equal(t, "A 1.50 2026-03-01 2;B 2.50 2026-04-01 ;C 3.75 2026-05-01 1;E 9.00  3", g.Ask(t,
		`SELECT string_agg(concat(code, ' ', surcharge_eur, ' ', "from", ' ', deck), ';' ORDER BY code) FROM gavrik_files.surcharges_of_winter`))
	fields := jory.do("GET", "/api/catalog/"+set+"/fields", nil)
	require.Contains(t, fields.text, `"label":"Deck"`)

	// Its owner describes it; what links there tells when it goes.
	description := jory.do("GET", "/api/catalog/"+set+"/description", nil)
	require.Equal(t, 200, description.code, description.text)
	said := description.body["said"].(map[string]any)
	said["grain"] = "What is added in winter."
	said["links"] = map[string]any{"port": map[string]any{"label": "Port", "leads": map[string]any{"to": "ports", "by": []string{"code"}, "into": []string{"code"}}}}
	put := jory.do("PUT", "/api/catalog/"+set+"/description", map[string]any{"version": description.body["version"], "said": said})
	require.Equal(t, 200, put.code, put.text)
	other.do("GET", "/api/catalog/"+set+"/description", nil).refused(t, 403, "Only administrators describe these records")
	saved := jory.do("POST", "/api/views", map[string]any{"name": "Winter", "document": view})
	require.Equal(t, 201, saved.code, saved.text)
	jory.do("DELETE", at, nil).refused(t, 409, "“Winter” would not run any more")
	require.Equal(t, 204, jory.do("DELETE", at+"?anyway=true", nil).code)
	jory.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 10}).refused(t, 422, "")
	require.Equal(t, "0", g.Ask(t, "SELECT count(*)::text FROM pg_class WHERE relname LIKE 'surcharges%' OR relname LIKE 'incoming%' AND relkind = 'r'"))
	// Should it come again, it is the same: the view runs.
	id = jory.send("surcharges.csv", surcharges)
	jory.read(id, "", "code")
	again := jory.bring(id, map[string]any{"name": "Surcharges of winter"})
	require.Equal(t, 200, again.code, again.text)
}

// What is sent arrives once, in order; a file on its way is the sender's alone; what is wrong is said
// before anything is written.
func TestFilesOnTheirWay(t *testing.T) {
	g := harness.Start(t)
	jory := added(t, g, person(t, g, 0), "analyst")
	large := "Ref,Seats\n" + strings.Repeat("R,1\n", 2<<20)
	made := jory.do("POST", "/api/uploads", map[string]any{"file": "C:\\files\\large.csv", "size": len(large)})
	require.Equal(t, "large.csv", made.body["file"])
	id := made.body["id"].(string)
	put := func(at int, text string) answer {
		jory.header["Content-Type"] = "application/octet-stream"
		defer delete(jory.header, "Content-Type")
		return jory.do("PUT", fmt.Sprintf("/api/uploads/%s/parts?at=%d", id, at), text)
	}
	const part = 4 << 20
	put(part, large[part:2*part]).refused(t, 409, "Another part of the file is to come next")
	put(0, large[:part-1]).refused(t, 409, "Another part of the file is to come next")
	for range 2 { // the answer was lost, and it is sent again
		a := put(0, large[:part])
		require.Equal(t, [2]any{200, float64(part)}, [2]any{a.code, a.body["received"]}, a.text)
	}
	jory.do("POST", "/api/uploads/"+id+"/look", map[string]any{"settings": map[string]any{}}).refused(t, 409, "has not arrived as a whole")
	put(part, large[part:2*part])
	a := put(2*part, large[2*part:])
	require.Equal(t, [2]any{200, "arrived"}, [2]any{a.code, a.body["state"]}, a.text)

	look := jory.do("POST", "/api/uploads/"+id+"/look", map[string]any{"settings": map[string]any{}})
	require.Equal(t, [2]any{float64(2 << 20), true}, [2]any{look.body["rows"], look.body["whole"]})
	recipe := look.body["recipe"].(map[string]any)
	recipe["links"] = []any{map[string]any{"by": "ref", "to": "customers", "into": "email"}} // sensitive, and kept from her
	jory.do("POST", "/api/uploads/"+id+"/read", map[string]any{"recipe": recipe}).refused(t, 422, "The records that this link leads to are not there")
	linked := jory.do("POST", "/api/uploads/"+id+"/look", map[string]any{"settings": map[string]any{}, "recipe": recipe})
	require.Contains(t, linked.text, "the records that it leads to are not there")
	recipe["links"] = []any{map[string]any{"by": "ref", "to": "bookings", "into": "ref"}}
	linked = jory.do("POST", "/api/uploads/"+id+"/look", map[string]any{"settings": map[string]any{}, "recipe": recipe})
	unmatched := linked.body["unmatched"].([]any)[0].(map[string]any)
	require.Equal(t, []any{1.0, float64(2 << 20), []any{"R"}}, []any{unmatched["values"], unmatched["rows"], unmatched["examples"]})
	delete(recipe, "links")
	recipe["fields"].([]any)[1].(map[string]any)["type"] = "rhyme"
	jory.do("POST", "/api/uploads/"+id+"/look", map[string]any{"settings": map[string]any{}, "recipe": recipe}).refused(t, 422, "")
	recipe["fields"].([]any)[1].(map[string]any)["type"] = "whole"

	// A server that read it and is gone: it is told, and it can be read again.
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.uploads SET state = 'reading', beat_at = now() - interval '1 minute' WHERE id = $1", id)
	require.NoError(t, err)
	require.Equal(t, true, jory.do("GET", "/api/uploads/"+id, nil).body["lost"])

	// Read, and stopped; then read to its end.
	require.Equal(t, 202, jory.do("POST", "/api/uploads/"+id+"/read", map[string]any{"recipe": recipe}).code)
	jory.do("POST", "/api/uploads/"+id+"/read", map[string]any{"recipe": recipe}).refused(t, 409, "is being read already")
	require.Equal(t, 204, jory.do("POST", "/api/uploads/"+id+"/stop", nil).code)
	var now map[string]any
	require.Eventually(t, func() bool {
		now = jory.do("GET", "/api/uploads/"+id, nil).body
		return now["state"] != "reading"
	}, time.Minute, 5*time.Millisecond)
	require.Equal(t, [2]any{"arrived", "It was stopped."}, [2]any{now["state"], now["failure"]})
	outcome := jory.read(id, "")
	require.Equal(t, float64(2<<20), outcome["rows"])
	require.Equal(t, "1", g.Ask(t, "SELECT count(*)::text FROM pg_class c JOIN pg_namespace n ON n.oid = relnamespace WHERE nspname = 'gavrik_incoming' AND relkind = 'r' AND relname = '"+id+"'"))
	// Whoever has limits sees all of what she has brought in herself, though it came after them.
	own := jory.send("own.csv", "Name,Seats\nGig,4\nSkiff,6\n")
	jory.read(own, "", "name")
	require.Equal(t, 200, jory.bring(own, map[string]any{"name": "Small boats"}).code)
	run := jory.do("POST", "/api/run", map[string]any{
		"view": document("small_boats", map[string]any{"field": "seats", "totals": []any{map[string]any{"fn": "sum"}}}), "depth": 1, "limit": 5,
	})
	require.Equal(t, 200, run.code, run.text)
	require.Contains(t, run.text, `"10"`)
	require.Contains(t, jory.do("GET", "/api/brought-in", nil).text, "own.csv")
	wen := person(t, g, 2)
	require.NotContains(t, wen.do("GET", "/api/brought-in", nil).text, "own.csv")

	require.Equal(t, 204, jory.do("DELETE", "/api/uploads/"+id, nil).code)
	require.Equal(t, "0", g.Ask(t, "SELECT count(*)::text FROM pg_class c JOIN pg_namespace n ON n.oid = relnamespace WHERE nspname = 'gavrik_incoming'"))
	jory.bring(id, map[string]any{"name": "Gone"}).refused(t, 404, "not on its way in any more")

	// Records that others link to: the link is told of once they are gone.
	tamsin := person(t, g, 0)
	require.Equal(t, 204, tamsin.do("DELETE", "/api/brought-in/list_prices", nil).code)
	lines := tamsin.do("GET", "/api/catalog/booking_lines/description", nil)
	require.Contains(t, lines.text, "list_prices", lines.text)
	require.Equal(t, 200, tamsin.do("POST", "/api/run", map[string]any{"view": document("booking_lines", map[string]any{"field": "item"}), "depth": 0, "limit": 5}).code)

	bomb := jory.send("bomb.xlsx", "PK\x03\x04 and nothing behind")
	jory.do("POST", "/api/uploads/"+bomb+"/look", map[string]any{"settings": map[string]any{}}).refused(t, 422, "The spreadsheet is damaged")
	jory.do("POST", "/api/uploads", map[string]any{"file": "huge.csv", "size": 5 << 30}).refused(t, 422, "at most 2048 MB are taken")
}
