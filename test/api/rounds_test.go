package api

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// looked is a round of a view that people look at every Monday at eight.
func looked(view string, people ...int) map[string]any {
	out := map[string]any{
		"when":   map[string]any{"every": "week", "on": []string{"monday"}, "at": "08:00"},
		"people": append([]int{}, people...), "groups": []int{},
	}
	if view != "" {
		out["view"] = view
	}
	return out
}

func with(m map[string]any, more map[string]any) map[string]any {
	out := map[string]any{}
	for _, part := range []map[string]any{m, more} {
		for k, v := range part {
			out[k] = v
		}
	}
	return out
}

// number is a person's.
func number(t *testing.T, g *harness.Gavrik, n int) int {
	id, err := strconv.Atoi(g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[n].Email))
	require.NoError(t, err)
	return id
}

// round is how a round stands for a person; nil if she has none of that key.
func (c *client) round(key string) map[string]any {
	c.t.Helper()
	a := c.do("GET", "/api/rounds", nil)
	require.Equal(c.t, 200, a.code, a.text)
	for _, one := range a.body["rounds"].([]any) {
		if r := one.(map[string]any); r["key"] == key {
			return r
		}
	}
	return nil
}

func monday(day, hour, minute int) time.Time {
	return time.Date(2026, 11, day, hour, minute, 0, 0, time.UTC)
}

// Rounds come due by the clock, go when they were looked at, and come again.
func TestRoundsComeAndGo(t *testing.T) {
	g := harness.Start(t)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	view := admin.save("Claims, weekly", true).body["key"].(string)
	two := looked(view, number(t, g, 0), number(t, g, 1))
	add := func(send map[string]any) string {
		a := admin.do("POST", "/api/rounds", send)
		require.Equal(t, 201, a.code, a.text)
		return a.body["key"].(string)
	}
	one, each := add(two), add(with(two, map[string]any{"each": true}))
	require.Equal(t, "every Monday at 8:00", admin.round(one)["words"])
	require.Equal(t, "next Mon 30 Nov, 08:00", jory.round(one)["stand"])
	require.Nil(t, wen.round(one), "she is not one of those who look")

	g.Clock.Turn(monday(30, 7, 59))
	require.Equal(t, false, jory.round(one)["due"])
	g.Clock.Turn(monday(30, 8, 0))
	require.Equal(t, true, jory.round(one)["due"])
	require.Equal(t, "since today 08:00", jory.round(one)["stand"])
	g.Clock.Turn(monday(30+7, 9, 0))
	require.Equal(t, "since Monday 08:00, twice", strings.Replace(jory.round(each)["stand"].(string), "Mon 30 Nov,", "Monday", 1))

	for _, key := range []string{one, each, each} { // the second time, as by another window, changes nothing
		a := jory.do("POST", "/api/rounds/"+key+"/looks", map[string]any{"note": "Two are late."})
		require.Equal(t, 200, a.code, a.text)
	}
	require.Equal(t, false, admin.round(one)["due"], "one of them looked")
	require.Equal(t, true, admin.round(each)["due"], "everyone has to look")
	require.Equal(t, false, jory.round(each)["due"])
	require.Equal(t, "Two are late.", admin.round(each)["last"].(map[string]any)["note"])
	require.Equal(t, 204, jory.do("PUT", "/api/rounds/"+each+"/note", map[string]any{"note": "One is late."}).code)
	looks := admin.do("GET", "/api/rounds/"+each+"/looks", nil).body["looks"].([]any)
	require.Equal(t, "One is late.", looks[0].(map[string]any)["note"])
	require.Equal(t, "2026-11-30T08:00:00Z", looks[len(looks)-1].(map[string]any)["due"])
	wen.do("GET", "/api/rounds/"+each+"/looks", nil).refused(t, 404, "no such round")
	wen.do("POST", "/api/rounds/"+each+"/looks", map[string]any{}).refused(t, 404, "no such round")

	// A clock that was set back shows nothing that was looked at, and nothing is lost.
	g.Clock.Turn(monday(30, 8, 30))
	require.Equal(t, false, jory.round(one)["due"])
	g.Clock.Turn(monday(30+14, 8, 0))
	require.Equal(t, true, jory.round(one)["due"], "it comes again")

	// Who may not see the view any more has nothing to look at; its owner is told.
	require.Equal(t, 200, admin.do("PUT", "/api/views/"+view+"/shares", map[string]any{"shares": []any{}}).code)
	require.Nil(t, jory.round(one))
	require.Equal(t, 204, admin.do("DELETE", "/api/views/"+view, nil).code)
	require.Contains(t, admin.round(one)["wrong"], "in the bin")
	jory.do("DELETE", "/api/rounds/"+one, nil).refused(t, 404, "no such round")
	require.Equal(t, 204, admin.do("DELETE", "/api/rounds/"+one, nil).code)
	require.Nil(t, admin.round(one))
}

// A round may wait for something: for records, for a figure past a bound, for a change.
func TestRoundsWaitForWhatTheySay(t *testing.T) {
	g := harness.Start(t)
	admin := person(t, g, 0)
	me := number(t, g, 0)
	doc := claims(map[string]any{"filter": map[string]any{
		"field": "opened_at", "op": "in", "period": map[string]any{"which": "past", "unit": "day", "n": 3},
	}})
	view := admin.do("POST", "/api/views", map[string]any{"name": "New claims", "document": doc}).body["key"].(string)
	daily := with(looked(view, me), map[string]any{"when": map[string]any{"every": "day", "at": "08:00"}})
	add := func(trigger map[string]any) string {
		a := admin.do("POST", "/api/rounds", with(daily, map[string]any{"trigger": trigger}))
		require.Equal(t, 201, a.code, a.text)
		return a.body["key"].(string)
	}
	records := add(map[string]any{"on": "records"})
	many := add(map[string]any{"on": "figure", "is": "over", "bound": "1"})
	sum := add(map[string]any{"on": "figure", "field": "claimed", "fn": "sum", "is": "under", "bound": "1,000,000.5"})
	changed := add(map[string]any{"on": "changed"})
	require.Contains(t, admin.round(sum)["words"], "is under 1,000,000.5")

	g.Clock.Turn(monday(24, 8, 0))
	for key, words := range map[string]string{records: "claim", many: "claim", sum: "laimed", changed: "has changed"} {
		r := admin.round(key)
		require.Equal(t, true, r["due"], r)
		require.Contains(t, r["found"], words)
	}
	require.Equal(t, 200, admin.do("POST", "/api/rounds/"+changed+"/looks", map[string]any{}).code)
	g.Clock.Turn(monday(25, 8, 0))
	require.Equal(t, true, admin.round(changed)["due"], "the days that count have moved along")

	// Long after the last claim nothing is left to look at, and nothing changes.
	g.Clock.Turn(time.Date(2031, 1, 1, 9, 0, 0, 0, time.UTC))
	require.Equal(t, 200, admin.do("POST", "/api/rounds/"+changed+"/looks", map[string]any{}).code)
	g.Clock.Turn(time.Date(2031, 1, 2, 9, 0, 0, 0, time.UTC))
	for key, words := range map[string]string{records: "0 claims", many: "0 claims", changed: "nothing has changed"} {
		r := admin.round(key)
		require.Equal(t, false, r["due"], r)
		require.Equal(t, true, r["idle"], r)
		require.Contains(t, r["found"], words)
	}
	require.Equal(t, false, admin.round(sum)["due"], "a blank is under nothing")
}

// What cannot be a round is refused with what to do.
func TestRoundsThatCannotBe(t *testing.T) {
	g := harness.Start(t)
	admin, wen := person(t, g, 0), person(t, g, 2)
	mine := admin.save("Mine alone", false).body["key"].(string)
	shared := admin.save("For all", true).body["key"].(string)
	me, her := number(t, g, 0), number(t, g, 2)
	rule := func(of map[string]any) map[string]any { return with(looked(mine, me), map[string]any{"when": of}) }
	only := func(trigger map[string]any) map[string]any {
		return with(looked(mine, me), map[string]any{"trigger": trigger})
	}
	for _, c := range []struct {
		send  map[string]any
		words string
	}{
		{rule(map[string]any{"every": "month", "date": 30, "count": 12, "from": "2026-02-01", "at": "08:00"}), "it would never come"},
		{rule(map[string]any{"every": "week", "at": "08:00"}), "Choose the days"},
		{rule(map[string]any{"every": "day", "at": "25:00"}), "body.when.at"},
		{looked(mine), "Nobody you chose"},
		{looked(mine, her), "may not see this view"},
		{with(looked(mine, me), map[string]any{"answers": map[string]any{"route": map[string]any{"value": "x"}}}), "asks nothing called"},
		{only(map[string]any{"on": "figure", "is": "over", "bound": "many"}), "is not a number"},
		{only(map[string]any{"on": "figure", "field": "paid", "fn": "sum", "is": "over", "bound": "1"}), "no such total"},
		{only(map[string]any{"on": "records", "bound": "1"}), "Only a figure has a bound"},
	} {
		admin.do("POST", "/api/rounds", c.send).refused(t, 422, c.words)
	}
	admin.do("POST", "/api/rounds", looked("nothing", me)).refused(t, 404, "no such view")
	wen.do("POST", "/api/rounds", looked(shared, me)).refused(t, 403, "for yourself alone")
	require.Equal(t, 201, wen.do("POST", "/api/rounds", looked(shared, her)).code)
	_, err := g.DB.Exec(t.Context(), `INSERT INTO gavrik.rounds (key, view_id, owner_id, rule, each_looks, by_seeing, begun_at)
		SELECT key || n, view_id, owner_id, rule, each_looks, by_seeing, begun_at FROM gavrik.rounds, generate_series(1, 499) n WHERE owner_id = $1`, her)
	require.NoError(t, err)
	wen.do("POST", "/api/rounds", looked(shared, her)).refused(t, 422, "500 rounds for you already")
}

// A private address gives a calendar the rounds of its owner, and nobody else's; it ends at once.
func TestTheCalendarOfRounds(t *testing.T) {
	g := harness.Start(t)
	admin, wen, anybody := person(t, g, 0), person(t, g, 2), stranger(t, g)
	view := admin.save("Quay & “harbour”; weekly", true).body["key"].(string)
	require.Equal(t, 201, admin.do("POST", "/api/rounds", looked(view, number(t, g, 2))).code)
	feed := func(c *client) string {
		a := c.do("POST", "/api/calendar", nil)
		require.Equal(t, 200, a.code, a.text)
		return a.body["path"].(string)
	}
	first := feed(wen)
	at := feed(wen)
	anybody.do("GET", first, nil).refused(t, 404, "was replaced")
	a := anybody.do("GET", at, nil)
	require.Equal(t, 200, a.code, a.text)
	require.Contains(t, a.head.Get("Content-Type"), "text/calendar")
	cal, err := ical.NewDecoder(strings.NewReader(a.text)).Decode()
	require.NoError(t, err)
	events := cal.Events()
	require.Len(t, events, 12, "Mondays of ninety days, the first in a week")
	summary, err := events[0].Props.Text(ical.PropSummary)
	require.NoError(t, err)
	require.Equal(t, "Look at “Quay & “harbour”; weekly”", summary)
	begins, err := events[0].DateTimeStart(time.UTC)
	require.NoError(t, err)
	require.Equal(t, monday(30, 8, 0), begins.UTC())

	require.NotContains(t, anybody.do("GET", feed(admin), nil).text, "Quay", "others’ rounds are theirs")
	require.Equal(t, 204, wen.do("DELETE", "/api/calendar", nil).code)
	anybody.do("GET", at, nil).refused(t, 404, "no calendar here")
	at = feed(wen)
	_, err = g.DB.Exec(t.Context(), "UPDATE gavrik.people SET left_at = now() WHERE email = $1", demo.People[2].Email)
	require.NoError(t, err)
	anybody.do("GET", at, nil).refused(t, 404, "no calendar here")
}
