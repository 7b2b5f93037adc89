package api

import (
	"bytes"
	"fmt"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

type object = map[string]any

// asking is a condition on a field that whoever runs the view answers.
func asking(path, name string, more object) object {
	return with(object{"field": path, "op": "one_of", "ask": object{"name": name, "label": "Which " + name + "?"}}, more)
}

// saveAlone saves something that nobody else sees.
func (c *client) saveAlone(name string, doc object) string {
	c.t.Helper()
	a := c.do("POST", "/api/views", object{"name": name, "document": doc})
	require.Equal(c.t, 201, a.code, a.text)
	return a.body["key"].(string)
}

func boardOf(parts ...any) object { return object{"gavrik": 1.0, "parts": parts} }

// part is one of a view; more says what of it.
func part(key, view, show string, more object) object {
	return with(object{"key": key, "view": view, "show": show}, more)
}

// shown is what a part shows.
func (c *client) shown(part object, answers any) map[string]any {
	c.t.Helper()
	a := c.do("POST", "/api/boards/part", object{"part": part, "answers": answers})
	require.Equal(c.t, 200, a.code, a.text)
	return a.body
}

func (c *client) look(board object) map[string]any {
	c.t.Helper()
	a := c.do("POST", "/api/boards/look", object{"board": board})
	require.Equal(c.t, 200, a.code, a.text)
	return a.body
}

// What stands on a board is what its views say, text for text, with one answer for all of them.
func TestABoardSaysWhatItsViewsSay(t *testing.T) {
	g := harness.Start(t)
	admin := person(t, g, 0)
	route := g.Ask(t, "SELECT name FROM routes ORDER BY name OFFSET 1 LIMIT 1")
	byMonth := claims(object{
		"columns": []any{field("ref"), field("opened_at"), object{"field": "claimed", "totals": []any{object{"fn": "sum"}, object{"fn": "average"}}}},
		"groups":  []any{object{"field": "opened_at", "unit": "month"}, object{"field": "category"}},
		"filter": object{"all": []any{
			asking("booking.sailing.route.name", "route", nil),
			object{"field": "opened_at", "op": "in", "period": object{"which": "past", "unit": "month", "n": 3}},
		}},
		"compare": object{"with": "before"},
	})
	sailings := object{
		"gavrik": 1, "records": "sailings", "columns": []any{field("ref"), field("departs_at"), summed("passengers")},
		"filter": asking("route.name", "line", nil), "sort": []any{object{"field": "passengers", "desc": true}},
	}
	one, two := admin.saveAs("Claims by month", byMonth), admin.saveAs("Crossings", sailings)
	board := boardOf(
		part("owed", one, "figure", nil), part("mean", one, "figure", object{"field": "claimed", "fn": "average"}),
		part("many", two, "figure", object{"count": true}), part("drawn", one, "chart", nil),
		part("groups", one, "groups", object{"depth": 1, "lines": 7}), part("first", two, "table", object{"lines": 4}),
		object{"key": "words", "show": "text", "text": "**Now**"},
	)
	look := admin.look(board)
	require.Equal(t, "3 figures, a chart, a list of groups, a table and a text of “Claims by month” and “Crossings”.", look["sentence"])
	questions := look["questions"].([]any)
	require.Len(t, questions, 1, "the route of a claim's booking is the route of a sailing")
	require.Equal(t, []any{object{"view": one, "name": "route"}, object{"view": two, "name": "line"}}, questions[0].(object)["of"])

	for _, routes := range [][]string{nil, {route}} {
		mine, theirs := object{}, object{}
		if routes != nil {
			mine["route"], theirs["line"] = object{"values": routes}, object{"values": routes}
		}
		answered := func(doc object, answers object) object {
			out := with(doc, nil)
			for _, given := range answers {
				condition := asking("route.name", "line", given.(object))
				if all, ok := doc["filter"].(object)["all"].([]any); ok {
					condition = object{"all": []any{with(all[0].(object), given.(object)), all[1]}}
				}
				out["filter"] = condition
			}
			return out
		}
		run := func(doc object, answers object, depth, limit int) map[string]any {
			a := admin.do("POST", "/api/run", object{"view": answered(doc, answers), "depth": depth, "limit": limit})
			require.Equal(t, 200, a.code, a.text)
			return a.body
		}
		cells := func(of map[string]any, line string) []any { return of[line].(object)["cells"].([]any) }
		// The columns are ref, opened, then of the sum and of the average: this, the other, change, percent.
		r := run(byMonth, mine, 0, 1)
		heads := r["columns"].([]any)
		at := func(fn, part string) int {
			for i, h := range heads {
				side, _ := h.(object)["part"].(string)
				if h.(object)["fn"] == fn && side == part {
					return i
				}
			}
			require.Fail(t, "no column", "%s %s", fn, part)
			return 0
		}
		for key, fn := range map[string]string{"owed": "sum", "mean": "average"} {
			f := admin.shown(part(key, one, "figure", object{"field": "claimed", "fn": fn}), mine)["figure"].(object)
			grand := cells(r, "grand")
			require.Equal(t,
				[]any{grand[at(fn, "")], grand[at(fn, "other")], grand[at(fn, "change")], grand[at(fn, "percent")]},
				[]any{f["text"], f["other"], f["change"], f["percent"]}, key)
		}
		where := ""
		if routes != nil {
			where = fmt.Sprintf(" JOIN routes r ON r.id = s.route_id WHERE r.name = '%s'", route)
		}
		f := admin.shown(part("many", two, "figure", object{"count": true}), theirs)["figure"].(object)
		require.Equal(t, g.Ask(t, "SELECT trim(to_char(count(*), '999,999')) FROM sailings s"+where), f["text"])

		shown := admin.shown(part("groups", one, "groups", object{"depth": 1, "lines": 7}), mine)
		lines, whole := shown["lines"].([]any), run(byMonth, mine, 1, 7)
		for i, l := range whole["lines"].([]any) {
			require.Equal(t, l.(object)["label"], lines[i].(object)["label"])
			require.Equal(t, l.(object)["cells"].([]any)[2:], lines[i].(object)["cells"], "all but ref and the day")
		}
		require.Equal(t, cells(whole, "grand")[2:], lines[len(lines)-1].(object)["cells"])
		require.EqualValues(t, whole["total"].(float64)-7, shown["more"].(float64))

		shown = admin.shown(part("first", two, "table", object{"lines": 4}), theirs)
		whole = run(sailings, theirs, 0, 4)
		for i, l := range whole["lines"].([]any) {
			require.Equal(t, l.(object)["cells"], shown["lines"].([]any)[i].(object)["cells"])
		}
		marks := admin.shown(part("drawn", one, "chart", nil), mine)["chart"]
		drawn := run(with(byMonth, object{"chart": object{"field": "claimed", "fn": "sum"}}), mine, 0, 1)["chart"]
		require.Equal(t, drawn, marks)
	}
}

// Whatever is wrong with a board or with one of its views is said where it stands; the rest goes on.
func TestWhatIsWrongStandsInItsPart(t *testing.T) {
	g := harness.Start(t)
	admin, reader := person(t, g, 0), person(t, g, 2)
	owner := added(t, g, admin, "analyst")
	view := owner.saveAlone("Claims", claims(object{"columns": []any{field("ref"), summed("claimed")}}))
	gone := owner.saveAlone("Soon gone", claims(nil))
	require.Equal(t, 204, owner.do("DELETE", "/api/views/"+gone, nil).code)
	waits := owner.saveAlone("Waits", claims(object{"filter": asking("category", "kind", object{
		"ask": object{"name": "kind", "label": "Which kind?", "required": true},
	})}))
	narrowed := owner.saveAlone("Kinds with much", claims(object{
		"columns": []any{field("ref"), summed("claimed")},
		"groups": []any{object{
			"field": "category",
			"keep":  object{"field": "claimed", "fn": "sum", "op": "over", "value": "0", "others": "out"},
		}},
	}))
	broken := owner.saveAlone("Broken", claims(object{"columns": []any{field("ref"), field("note")}}))
	_, err := g.DB.Exec(t.Context(), "ALTER TABLE claims RENAME note TO remark")
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Refresh(t.Context()))

	for _, c := range []struct {
		part  object
		at    string
		words string
	}{
		{part("a", gone, "figure", nil), "why", "not there any more"},
		{part("a", "nothing", "chart", nil), "why", "not shared with you"},
		{part("a", broken, "table", nil), "why", "“Broken” cannot run"},
		{part("a", waits, "groups", nil), "waits", "Which kind?"},
		{part("a", view, "groups", nil), "why", "groups nothing"},
		{part("a", narrowed, "table", nil), "why", "leaves groups out"},
		{part("a", view, "figure", object{"field": "paid"}), "why", "no column of the view any more"},
	} {
		require.Contains(t, owner.shown(c.part, nil)[c.at], c.words)
	}
	require.Contains(t, owner.shown(part("a", view, "figure", nil), object{"port": object{"value": "x"}})["why"], "asks nothing called")
	require.Contains(t, reader.shown(part("a", view, "figure", nil), nil)["why"], "not shared with you")

	// Text acts in no browser, and loads nothing.
	html := owner.shown(object{"key": "t", "show": "text", "text": strings.Join([]string{
		"# Owed <script>alert(1)</script>", `<img src=x onerror=alert(1)> [to](javascript:alert(1)) [away](https://marrowby.example)`,
		`<a href="/v/` + view + `" onclick="x()">view</a> **strong** <iframe src=/></iframe> ![pic](https://elsewhere.example/p.png)`,
	}, "\n\n")}, nil)["html"].(string)
	for _, bad := range []string{"script", "onerror", "onclick", "javascript:", "iframe", "<img"} {
		require.NotContains(t, html, bad)
	}
	require.Contains(t, html, "<strong>strong</strong>")
	require.Contains(t, html, `href="https://marrowby.example"`)

	many := make([]any, 60)
	for i := range many {
		many[i] = part(fmt.Sprint("p", i), view, "figure", nil)
	}
	owner.do("POST", "/api/views", object{"name": "Sixty", "document": boardOf(many...)}).refused(t, 422, "60 parts, where 40 are the most")
	owner.do("POST", "/api/boards/look", object{"board": boardOf(object{"key": "a", "show": "figure"})}).refused(t, 422, "choose one")
	owner.do("POST", "/api/views", object{"name": "Odd", "document": object{"gavrik": 1, "parts": []any{object{"key": "a", "shows": 1}}}}).
		refused(t, 422, "not known here")

	// A board with a broken part is saved all the same, and what else stands on it is shown.
	board := owner.saveAlone("Mixed", boardOf(part("a", gone, "figure", nil), part("b", view, "figure", nil)))
	names := owner.look(boardOf(part("a", gone, "figure", nil), part("b", board, "figure", nil)))["views"].([]any)
	require.Contains(t, names[1].(object)["why"], "is a board")
	owner.do("GET", "/api/views/"+board+"/result", nil).refused(t, 422, "This is a board")
	owner.do("GET", "/api/views/"+board+"/keeping", nil).refused(t, 422, "This is a board")
	owner.do("POST", "/api/views/"+board+"/kept", object{"view": claims(nil)}).refused(t, 422, "This is a board")
	answers := object{"board": boardOf(part("b", view, "figure", nil)), "answers": object{"port": object{"value": "x"}}}
	require.Equal(t, []any{"port"}, owner.do("POST", "/api/boards/look", answers).body["unasked"])
}

// A board is saved, shared, versioned, binned and found as a view is.
func TestABoardIsKeptAsAViewIs(t *testing.T) {
	g := harness.Start(t)
	admin, reader := person(t, g, 0), person(t, g, 2)
	view := admin.saveAlone("Claims of all", claims(object{"columns": []any{field("ref"), summed("claimed")}}))
	doc := boardOf(part("a", view, "figure", nil), part("b", view, "table", object{"heading": "Harbourmaster’s list"}))
	board := admin.saveAlone("Harbour board", doc)
	at := "/api/views/" + board
	got := admin.do("GET", at, nil).body
	require.Equal(t, "board", got["kind"])
	require.Equal(t, doc, got["document"])
	reader.do("GET", at, nil).refused(t, 404, "")

	moved := boardOf(part("b", view, "table", object{"heading": "Harbourmaster’s list", "wide": 8.0}), part("a", view, "figure", nil))
	require.Equal(t, 200, admin.do("PUT", at, object{"name": "Harbour board", "document": moved, "base": 1}).code)
	admin.do("PUT", at, object{"name": "Harbour board", "document": doc, "base": 1}).refused(t, 409, "saved elsewhere")
	admin.do("PUT", at, object{"name": "Harbour board", "document": claims(nil), "base": 2}).refused(t, 422, "stays")
	versions := admin.do("GET", at+"/versions", nil).body["versions"].([]any)
	require.Equal(t, []any{
		"table “Harbourmaster’s list” is 8 columns wide and 8 rows high, and was 12 and 8",
		"figure of “Claims of all” moved",
	}, versions[0].(object)["changes"])
	require.Equal(t, doc, admin.do("GET", at+"/versions/1", nil).body["document"])
	changes := admin.do("POST", "/api/changes", object{"from": doc, "to": moved})
	require.Equal(t, versions[0].(object)["changes"], changes.body["changes"])
	admin.do("POST", "/api/changes", object{"from": doc, "to": claims(nil)}).refused(t, 422, "cannot be compared")

	draft := with(drafted("boardstate12345", 0), object{"place": "/b/" + board, "document": doc})
	require.Equal(t, 200, admin.do("PUT", "/api/drafts/boarddraft1", draft).code)
	require.Equal(t, doc, admin.do("GET", "/api/states/boardstate12345", nil).body["document"])

	// The board is shared, its view is not: the owner is told, its reader sees nothing of the view.
	require.Equal(t, 200, admin.do("PUT", at+"/shares", object{"shares": []any{object{}}}).code)
	look := admin.do("POST", "/api/boards/look", object{"board": doc, "shares": []any{object{}}})
	require.Equal(t, []any{"Claims of all"}, look.body["narrower"])
	require.Contains(t, reader.shown(part("a", view, "figure", nil), nil)["why"], "not shared with you")
	require.NotContains(t, reader.do("GET", "/api/views", nil).text, "Claims of all")
	found := func(c *client, words string) []string {
		var keys []string
		for _, f := range c.do("GET", "/api/find?words="+words, nil).body["found"].([]any) {
			if v, ok := f.(object)["view"].(object); ok {
				keys = append(keys, v["key"].(string))
			}
		}
		return keys
	}
	require.Equal(t, board, found(reader, "harbourmaster")[0])
	require.Equal(t, 200, admin.do("PUT", "/api/views/"+view+"/shares", object{"shares": []any{object{}}}).code)
	require.NotEmpty(t, reader.shown(part("a", view, "figure", nil), nil)["figure"].(object)["text"])

	require.Equal(t, 200, reader.do("PUT", at+"/favorite", object{"on": true}).code)
	require.Equal(t, 204, reader.do("PUT", at+"/answers", object{"answers": object{"route": object{"values": []any{"x"}}}}).code)
	require.Equal(t, 204, admin.do("DELETE", at, nil).code)
	bin := admin.do("GET", "/api/bin", nil).body["views"].([]any)
	require.Equal(t, "board", bin[0].(object)["kind"])
	require.Equal(t, 200, admin.do("POST", "/api/bin/"+board, nil).code)
	require.Equal(t, moved, reader.do("GET", at, nil).body["document"])
}

// A board is delivered to each as each may see it, with its paper; one answer goes to all of its views. It
// comes always, as paper, and never with the figures of a view that its reader does not see.
func TestABoardIsDelivered(t *testing.T) {
	p := posting(t, nil).start()
	admin := person(t, p.Gavrik, 0)
	channel := p.Ask(t, "SELECT channel FROM bookings GROUP BY channel ORDER BY count(*) DESC LIMIT 1")
	doc := document("bookings", summed("fare"), field("ref"))
	doc["groups"], doc["filter"] = []any{field("status")}, asking("channel", "channel", nil)
	all := admin.saveAs("Fares", doc)
	alone := admin.saveAlone("Staff only", document("staff", field("name")))
	key := admin.saveAs("Fares of a channel", boardOf(
		part("fare", all, "figure", nil), part("by", all, "groups", nil), part("drawn", all, "chart", object{"heading": "Drawn"}),
		part("staff", alone, "figure", nil), object{"key": "t", "show": "text", "text": "## To know\n\n- <b>first</b>\n- second"},
	))
	choices := admin.do("GET", "/api/views/"+key+"/recurring", nil)
	require.Equal(t, "channel", choices.body["asks"].([]any)[0].(object)["name"])
	send := delivered(key, object{
		"people":  []int{number(t, p.Gavrik, 0), number(t, p.Gavrik, 2)},
		"answers": object{"channel": object{"values": []any{channel}}}, "content": object{"files": []any{object{"format": "pdf"}}},
	})
	admin.do("POST", "/api/deliveries", with(send, object{"trigger": object{"on": "records"}})).refused(t, 422, "A board comes always")
	admin.do("POST", "/api/deliveries", with(send, object{"answers": object{"port": object{"value": "x"}}})).
		refused(t, 422, "None of the board's views asks for port")
	preview := admin.do("POST", "/api/deliveries/preview", send)
	require.Equal(t, 200, preview.code, preview.text)
	delivery := admin.deliver(send)
	require.Equal(t, "board", admin.delivery(delivery)["kind"])
	p.Clock.Turn(monday(30, 7, 30))
	require.NoError(t, p.Deliver.Tick(t.Context()))
	letters := p.come(2)
	for n, from := range map[int]string{0: "bookings b", 2: own} {
		sum := p.Ask(t, "SELECT to_char(sum(b.fare), 'FM999,999,999.00') FROM "+strings.Replace(
			from, "bookings b", "(SELECT * FROM bookings WHERE channel = '"+channel+"') b", 1,
		))
		l := letters[demo.People[n].Email]
		require.Contains(t, l.HTML, sum)
		require.Contains(t, l.Text, sum)
		require.Contains(t, l.Text, channel)
		require.Contains(t, l.Text, "- first", "what acts is left out")
		require.NotContains(t, l.HTML, "<b>first")
		require.Len(t, l.Files, 1)
		require.True(t, strings.HasPrefix(string(l.Files[0].Content), "%PDF"))
		text := pdfText(t, l.Files[0].Content)
		require.Contains(t, text, sum)
		require.Equal(t, n == 2, strings.Contains(text, "not shared with you"))
		require.Equal(t, n == 2, strings.Contains(l.Text, "not shared with you"))
	}
	if state := p.states(admin, delivery); len(state) > 0 {
		for _, l := range state {
			require.Equal(t, "sent", l["state"])
		}
	}
}

// pdfText is the words of a paper.
func pdfText(t *testing.T, paper []byte) string {
	t.Helper()
	read := exec.CommandContext(t.Context(), "pdftotext", "-raw", "-", "-")
	read.Stdin = bytes.NewReader(paper)
	text, err := read.Output()
	require.NoError(t, err)
	return strings.Join(strings.Fields(string(text)), " ")
}
