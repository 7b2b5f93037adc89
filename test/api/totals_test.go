package api

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/web"
	"gavrik/test/harness"
)

// totalled asks with the header of a view that is shown by its totals.
func (c *client) totalled(view, path string, send any) answer {
	c.t.Helper()
	c.header[web.TotalsHeader] = view
	defer delete(c.header, web.TotalsHeader)
	return c.do("POST", path, send)
}

// hidden are the digits and words of records that a reader of totals must never be sent, however written:
// three claims of a kind of their own, their sum, and one that is far larger than the others of its kind.
var hidden = []string{
	"98765", "98,765", "87654", "87,654", "76543", "76,543", "262962", "262,962", "65432", "65,432", "CL-RARE", "CL-BIG",
	"Selkie", "a seal came aboard",
}

// totals makes the claims above, keeps the records of claims from the port agents but for totals of five, and
// saves a view of them that everyone sees.
func totals(t *testing.T, g *harness.Gavrik) (view string, doc object) {
	_, err := g.DB.Exec(t.Context(), `INSERT INTO claims (id, ref, booking_id, category, status, opened_at, claimed, note)
		SELECT (SELECT max(id) FROM claims) + n, r, (SELECT min(booking_id) FROM claims), c, 'Open', '2026-11-02', x, 'a seal came aboard'
		FROM (VALUES (1, 'CL-RARE1', 'Selkie damage', 98765.43), (2, 'CL-RARE2', 'Selkie damage', 87654.32), (3, 'CL-RARE3', 'Selkie damage', 76543.21), (4, 'CL-BIG', 'Refund', 65432.10)) v (n, r, c, x)`)
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Refresh(t.Context()))
	admin := person(t, g, 0)
	id := g.Ask(t, "SELECT id::text FROM gavrik.groups WHERE name = 'Port agents'")
	change := object{"name": "Port agents", "base": 1, "limits": []any{object{"set": "claims", "totals": 5}}}
	require.Equal(t, 200, admin.do("PUT", "/api/groups/"+id, change).code)
	doc = claims(object{
		"columns": []any{
			field("ref"), field("note"), object{"field": "claimed", "totals": []any{object{"fn": "sum"}, object{"fn": "average"}, object{"fn": "largest"}}},
		},
		"groups": []any{object{"field": "category"}}, "chart": object{"field": "claimed", "fn": "sum"},
		"filter": asking("status", "status", nil),
	})
	return admin.saveAs("Claims by kind", doc), doc
}

// What is told in totals is what PostgreSQL says of groups of enough records; the others are told together,
// and neither single values nor ways to them are.
func TestTotalsAreToldWithoutRecords(t *testing.T) {
	g := harness.Start(t)
	view, doc := totals(t, g)
	admin, wen := person(t, g, 0), person(t, g, 2)
	require.EqualValues(t, 5, wen.do("GET", "/api/views/"+view, nil).body["least"])
	require.EqualValues(t, 0, admin.do("GET", "/api/views/"+view, nil).body["least"])
	run := wen.totalled(view, "/api/run", object{"view": doc, "depth": 9, "limit": 500})
	require.Equal(t, 200, run.code, run.text)
	lines := run.body["lines"].([]any)
	held := 0
	for _, l := range lines {
		l := l.(object)
		label := l["label"].(string)
		if strings.HasSuffix(label, "held back") {
			held = int(l["count"].(float64))
			require.Equal(t, []any{"", ""}, l["cells"])
			continue
		}
		want := g.Ask(t, "SELECT count(*) || ' ' || to_char(sum(claimed), 'FM999,999,999.00') FROM claims WHERE coalesce(category, '') = $1", label)
		require.Equal(t, want, fmt.Sprintf("%.0f %s", l["count"], l["cells"].([]any)[0]))
	}
	kinds := g.Ask(t, "SELECT (count(*) + 1)::text FROM (SELECT category FROM claims GROUP BY category HAVING count(*) >= 5) x")
	require.NotZero(t, held)
	require.GreaterOrEqual(t, held, 5, "what follows by subtraction is of enough records")
	most, err := strconv.Atoi(kinds)
	require.NoError(t, err)
	require.LessOrEqual(t, len(lines), most, "a line for each kind of enough, and one for the others")
	require.Contains(t, run.text, "largest claimed is not told")
	for _, digits := range hidden {
		require.NotContains(t, run.text, digits)
	}
	// It says the same whatever is asked of it.
	narrow := with(doc, object{"groups": []any{}, "filter": object{"field": "category", "op": "is", "value": "Selkie damage"}})
	again := wen.totalled(view, "/api/run", object{"view": narrow, "depth": 9, "limit": 500})
	require.Equal(t, said(t, run), said(t, again))
	wen.do("POST", "/api/run", object{"view": narrow, "depth": 0, "limit": 5}).refused(t, 422, "")
	wen.totalled(view, "/api/values", object{"view": doc, "field": "category"}).refused(t, 422, "shared for its totals")
	// Files have its groups, whatever lines they are asked for.
	for format, rows := range map[string]string{"csv": "records", "jsonl": "records", "html": "ledger"} {
		begun := wen.totalled(view, "/api/exports", object{"view": doc, "options": object{"format": format, "rows": rows}})
		require.Equal(t, 201, begun.code, begun.text)
		id := begun.body["id"].(string)
		require.Contains(t, wen.do("GET", "/api/exports/"+id+"/progress", nil).text, "event: ready")
		file := wen.do("GET", "/api/exports/"+id+"/file", nil)
		require.Contains(t, file.text, lines[0].(object)["label"])
		for _, digits := range append(hidden, "CL-0") {
			require.NotContains(t, file.text, digits, format)
		}
	}

	// On a board it is its totals, too.
	shown := wen.shown(part("a", view, "groups", nil), nil)
	require.Equal(t, lines[0].(object)["label"], shown["lines"].([]any)[0].(object)["label"])
	require.Contains(t, wen.shown(part("a", view, "table", nil), nil)["why"], "without its records")
	require.NotEmpty(t, wen.shown(part("a", view, "chart", nil), nil)["chart"].(object)["series"])
	require.NotEmpty(t, wen.shown(part("a", view, "figure", nil), nil)["figure"].(object)["text"])
	require.Contains(t, wen.shown(part("a", view, "figure", nil), object{"status": object{"values": []any{"Open"}}})["why"], "no other answers")
	require.Empty(t, wen.look(boardOf(part("a", view, "figure", nil)))["questions"], "its owner has answered")

	// Too few records are told of by a word, and nothing else.
	few := admin.saveAs("Few", with(doc, object{"filter": object{"field": "category", "op": "is", "value": "Selkie damage"}}))
	wen.totalled(few, "/api/run", object{"view": doc, "depth": 0, "limit": 5}).refused(t, 422, "fewer than 5 claims")
	require.Contains(t, wen.shown(part("a", few, "figure", nil), nil)["why"], "fewer than 5 claims")

	// An owner shares for totals, too, with people who see the records elsewhere.
	own := admin.saveAlone("Mine", doc)
	share := func(more object) answer {
		return admin.do("PUT", "/api/views/"+own+"/shares", object{"shares": []any{with(object{"role": "analyst"}, more)}})
	}
	share(object{"totals": 1}).refused(t, 422, "two at least")
	share(object{"totals": 5, "edit": true}).refused(t, 422, "sees its records")
	require.Equal(t, "all analysts (totals only)", share(object{"totals": 50}).body["audience"])
	jory := person(t, g, 1)
	require.EqualValues(t, 50, jory.do("GET", "/api/views/"+own, nil).body["least"])
	require.Equal(t, 200, jory.totalled(own, "/api/run", object{"view": doc, "depth": 0, "limit": 5}).code)
	jory.do("GET", "/api/views/"+own+"/kept", nil).refused(t, 403, "without its records")
	jory.do("GET", "/api/views/"+own+"/recurring", nil).refused(t, 403, "without its records")
	jory.do("POST", "/api/exports", object{"views": []any{own}, "options": object{"format": "csv"}}).refused(t, 403, "without its records")
}

// A board that is shared for its totals shows those of its views to who sees none of them by itself: of the
// views that are on it as it is saved, and that its owner sees.
func TestABoardIsSharedForItsTotals(t *testing.T) {
	g := harness.Start(t)
	_, doc := totals(t, g)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	own, other := admin.saveAlone("Mine alone", doc), admin.saveAlone("Not on it", doc)
	staff := admin.saveAlone("Staff", document("staff", field("name"), field("role")))
	parts := boardOf(part("a", own, "groups", nil), part("b", staff, "figure", nil))
	board := admin.saveAlone("For the owners", parts)
	share := admin.do("PUT", "/api/views/"+board+"/shares", object{"shares": []any{object{"totals": 7}}})
	require.Equal(t, "everyone (totals only)", share.body["audience"])
	shown := func(c *client, p, saved object) map[string]any {
		a := c.do("POST", "/api/boards/part", with(object{"part": p}, saved))
		require.Equal(t, 200, a.code, a.text)
		for _, digits := range hidden {
			require.NotContains(t, a.text, digits)
		}
		return a.body
	}
	through := object{"saved": board}
	for _, c := range []*client{jory, wen} {
		c.do("GET", "/api/views/"+own, nil).refused(t, 404, "")
		require.Contains(t, shown(c, part("a", own, "groups", nil), nil)["why"], "not shared with you")
		said := shown(c, part("a", own, "groups", object{"lines": 100}), through)
		for _, l := range said["lines"].([]any) {
			if label, ok := l.(object)["label"].(string); ok && l.(object)["level"] == 1.0 && !strings.HasSuffix(label, "held back") {
				require.GreaterOrEqual(t, l.(object)["count"], 7.0)
			}
		}
		require.NotEmpty(t, said["lines"])
		require.Contains(t, shown(c, part("a", own, "table", nil), through)["why"], "without its records")
		require.Contains(t, shown(c, part("a", other, "groups", nil), through)["why"], "not shared with you")
		look := c.do("POST", "/api/boards/look", with(object{"board": parts}, through)).body
		require.Equal(t, false, look["views"].([]any)[0].(object)["alone"])
		require.Empty(t, look["questions"])
		paper := c.do("POST", "/api/boards/pages", with(object{"board": parts}, through))
		require.Equal(t, 200, paper.code, paper.text)
		require.NotContains(t, paper.text, "not shared with you")
		for _, digits := range hidden {
			require.NotContains(t, paper.text, digits)
		}
	}
	jory.do("POST", "/api/boards/part", object{"part": part("a", own, "groups", nil), "saved": own}).refused(t, 404, "no such board")
	require.Empty(t, admin.do("POST", "/api/boards/look", object{"board": parts, "shares": []any{object{"totals": 7}}}).body["narrower"])
}

// Every operation is asked as a reader of totals, by itself and of the view whose totals she sees; none sends
// a digit or a word of what is hidden. The same requests of somebody who sees everything show that they
// would.
func TestNoOperationTellsAReaderOfTotalsMore(t *testing.T) {
	g := harness.Start(t)
	view, doc := totals(t, g)
	admin, wen := person(t, g, 0), person(t, g, 2)
	kept := admin.do("POST", "/api/views/"+view+"/kept", object{"view": doc})
	require.Equal(t, 201, kept.code, kept.text)
	board := boardOf(part("a", view, "table", object{"lines": 100}), part("b", view, "groups", nil), part("c", view, "figure", nil))
	filter := object{"field": "category", "op": "is", "value": "Selkie damage"}
	narrow := with(doc, object{"filter": filter, "groups": []any{}})
	// What the fields of requests are filled with, where an operation has them; several are tried one after
	// another.
	fill := map[string][]any{
		"view": {narrow, with(doc, object{"filter": filter}), doc}, "document": {narrow}, "from": {doc}, "to": {narrow}, "board": {board},
		"part": board["parts"].([]any), "field": {"claimed", "category"}, "fields": {[]any{"claimed", "category"}}, "search": {"Sel"},
		"limit": {100}, "depth": {9}, "offset": {0}, "options": {object{"format": "csv", "rows": "records"}, object{"format": "html"}},
		"name": {"x"}, "words": {"Selkie"}, "text": {"Selkie"}, "records": {"claims"}, "bins": {20}, "group": {""}, "head": {0}, "column": {0},
		"count": {2}, "values": {[]any{}}, "key": {"CL-RARE1"}, "record": {"CL-RARE1"}, "formula": {"MAX('Claimed')"}, "views": {[]any{view}},
		"set": {"claims"}, "path": {"claimed"}, "measure": {0}, "common": {5}, "type": {"text"}, "read": {""}, "with": {""},
	}
	paths := strings.NewReplacer(
		"{key}", view, "{set}", "claims", "{kept}", kept.body["key"].(string), "{version}", "1", "{id}", "1", "{field}", "claimed",
		"{record}", "CL-RARE1", "{letter}", "1",
	)
	queries := "?once=true&words=Selkie&record=CL-RARE1&keys=" + view + "&search=Selkie&q=Selkie"
	skipped := []string{"/api/session", "/api/sessions", "/api/password", "/api/second-factor", "/api/tokens", "/api/people", "/api/groups", "/api/audit"}
	told := map[string]bool{}
	ask := func(c *client, method, path string, send any) {
		for _, totalled := range []bool{false, true} {
			if totalled {
				c.header[web.TotalsHeader] = view
			}
			a := c.do(method, path, send)
			delete(c.header, web.TotalsHeader)
			for _, digits := range hidden {
				if !strings.Contains(a.text, digits) || a.code >= 400 {
					continue // a refusal may say what was sent
				}
				if c == admin {
					told[method+" "+strings.Split(path, "?")[0]] = true
					continue
				}
				require.Contains(t, fmt.Sprint(send), digits, "%s %s tells a reader of totals: %s", method, path, a.text)
			}
		}
	}
	for path, methods := range operations(t) {
		if slices.ContainsFunc(skipped, func(s string) bool { return strings.HasPrefix(path, s) }) {
			continue
		}
		at := paths.Replace(path)
		if strings.Contains(path, "/kept/{key}") {
			at = strings.Replace(path, "{key}", kept.body["key"].(string), 1)
		}
		for method, op := range methods {
			method = strings.ToUpper(method)
			if method == "DELETE" || strings.Contains(path, "/progress") {
				continue
			}
			bodies := []object{nil}
			if method != "GET" {
				bodies = filled(t, op, fill)
				for _, body := range bodies {
					if strings.HasSuffix(path, "/exports/pages") {
						body["from"] = 1 // a page, and no document
					}
				}
			} else {
				at += queries
			}
			for _, c := range []*client{wen, admin} {
				if method == "PUT" && c == admin {
					continue // nothing is changed
				}
				for _, body := range bodies {
					var send any
					if body != nil {
						send = body
					}
					ask(c, method, at, send)
				}
			}
		}
	}
	for _, op := range []string{
		"POST /api/run", "POST /api/values", "POST /api/overview", "POST /api/boards/part", "POST /api/boards/pages",
		"POST /api/exports/preview", "POST /api/exports/pages", "POST /api/distribution", "POST /api/bucket", "GET /api/find",
	} {
		require.Contains(t, told, op, "the test asks for too little")
	}
	t.Log(len(told), "operations tell somebody who sees everything")
}

// filled are bodies of an operation with each of the choices for its fields in turn.
func filled(t *testing.T, op any, fill map[string][]any) (out []object) {
	t.Helper()
	at := func(v any, keys ...string) any {
		for _, key := range keys {
			m, ok := v.(object)
			if !ok {
				return nil
			}
			v = m[key]
		}
		return v
	}
	schema := at(op, "requestBody", "content", "application/json", "schema")
	if ref, ok := at(schema, "$ref").(string); ok {
		schema = schemas(t)[ref[strings.LastIndex(ref, "/")+1:]]
	}
	known, _ := at(schema, "properties").(object)
	for turn := range 3 {
		body := object{}
		for key := range known {
			if choices := fill[key]; len(choices) > 0 {
				body[key] = choices[min(turn, len(choices)-1)]
			}
		}
		out = append(out, body)
	}
	return out
}

// schemas are those of the interface, by name.
func schemas(t *testing.T) object {
	text, err := web.OpenAPI()
	require.NoError(t, err)
	var doc struct {
		Components struct {
			Schemas object `json:"schemas"`
		} `json:"components"`
	}
	decode(t, text, &doc)
	return doc.Components.Schemas
}
