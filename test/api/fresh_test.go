package api

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// shows runs a view.
func (c *client) shows(doc object) object {
	c.t.Helper()
	a := c.do("POST", "/api/run", object{"view": doc, "depth": 1, "limit": 50})
	require.Equal(c.t, 200, a.code, a.text)
	return a.body
}

// arrival is what is told of an answer.
func (c *client) arrival(result any) (out object) {
	c.t.Helper()
	text := c.do("GET", fmt.Sprint("/api/records/arrivals?once=true&result=", result), nil).text
	_, data, _ := strings.Cut(text, "data: ")
	require.NoError(c.t, json.Unmarshal([]byte(data), &out), text)
	return out
}

// What an application commits is in the answers at once, and what did not change is not worked out again.
func TestWhatIsCommittedIsInTheAnswers(t *testing.T) {
	g := harness.StartFollowing(t)
	admin := person(t, g, 0)
	owed := claims(
		object{"columns": []any{field("ref"), summed("claimed")}, "groups": []any{object{"field": "status"}}},
	)
	routes := object{"gavrik": 1, "records": "routes", "columns": []any{field("name")}}
	before, steady := admin.shows(owed), admin.shows(routes)
	came := g.Workspace.Arrival()
	began := time.Now()
	_, err := g.DB.Exec(
		t.Context(), "UPDATE claims SET claimed = claimed + 1000 WHERE id = (SELECT min(id) FROM claims)",
	)
	require.NoError(t, err)
	<-came
	t.Logf("it was there after %s", time.Since(began))
	after := admin.shows(owed)
	require.NotEqual(t, before["result"], after["result"])
	require.NotEqual(t, fmt.Sprint(before["grand"]), fmt.Sprint(after["grand"]))
	again := admin.shows(routes)
	require.Equal(t, steady["result"], again["result"], "no route has changed: it is the same answer")
	require.NotEqual(
		t, steady["tally"].(object)["asOf"], again["tally"].(object)["asOf"], "as of the later moment",
	)

	// Whoever looks at an answer is told whether it still holds, and that nothing has changed since.
	require.Equal(t, false, admin.arrival(before["result"])["holds"])
	require.Equal(t, true, admin.arrival(after["result"])["holds"])
	lines := admin.do("POST", "/api/lines", object{"result": before["result"], "depth": 1, "limit": 50})
	require.Equal(t, before["lines"], lines.body["lines"], "the earlier answer can be read on")
	first := admin.arrival(after["result"])["asOf"].(string)
	require.Eventually(
		t, func() bool { return admin.arrival(after["result"])["asOf"].(string) > first }, 20*time.Second,
		200*time.Millisecond,
	)
}

// A schema that changes while the server runs is seen, told to administrators, and touches the views that use
// it alone.
func TestASchemaThatChangesWhileServing(t *testing.T) {
	g := harness.StartFollowing(t)
	admin, reader := person(t, g, 0), person(t, g, 2)
	noted := claims(object{"columns": []any{field("ref"), field("note")}})
	owed := claims(object{"columns": []any{summed("claimed")}, "groups": []any{object{"field": "status"}}})
	routes := object{"gavrik": 1, "records": "routes", "columns": []any{field("name")}}
	before, steady := admin.shows(owed), admin.shows(routes)
	admin.shows(noted)
	changes := func(statement string) {
		t.Helper()
		arrival := g.Workspace.Arrival()
		_, err := g.DB.Exec(t.Context(), statement)
		require.NoError(t, err)
		<-arrival
	}
	changes("ALTER TABLE claims RENAME note TO remark")
	admin.do("POST", "/api/run", object{"view": noted, "depth": 0, "limit": 1}).refused(t, 422, "note")
	require.Equal(t, before["lines"], admin.shows(owed)["lines"])
	require.Equal(t, steady["lines"], admin.shows(routes)["lines"])
	require.Contains(
		t, fmt.Sprint(admin.do("GET", "/api/catalog", nil).body["followed"]), "come as they are committed",
	)
	require.Equal(t, []any{}, reader.do("GET", "/api/catalog", nil).body["followed"])
	told := fmt.Sprint(admin.do("GET", "/api/catalog", nil).body["reshaped"])
	require.Contains(t, told, "Claims: the field “Note” (note) is gone.")
	require.Contains(t, told, "Claims: there is a new field, “Remark” (remark).")
	require.Equal(t, []any{}, reader.do("GET", "/api/catalog", nil).body["reshaped"])
	require.Contains(t, admin.do("GET", "/api/audit?what=database", nil).text, "the field “Note” (note) is gone")

	changes("ALTER TABLE claims ALTER COLUMN claimed TYPE numeric(14, 4)")
	require.Equal(
		t, g.Ask(t, "SELECT to_char(sum(claimed), 'FM999,999,990.0000') FROM claims"),
		admin.shows(owed)["grand"].(object)["cells"].([]any)[0],
	)
	changes("CREATE TABLE tolls (id int PRIMARY KEY, toll numeric(8,2)); INSERT INTO tolls VALUES (1, 7.50)")
	require.Contains(t, admin.do("GET", "/api/catalog", nil).text, "There is a new record set, “Tolls” (tolls).")
	changes("DROP TABLE tolls")
	admin.do(
		"POST", "/api/run",
		object{"view": object{"gavrik": 1, "records": "tolls", "columns": []any{}}, "depth": 0, "limit": 1},
	).refused(t, 422, "tolls")
}
