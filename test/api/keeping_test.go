package api

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// Every version is kept and told in words; a binned view is gone for everybody and
// comes back as it was.
func TestVersionsAndTheBin(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory := person(t, g, 0), person(t, g, 1)
	over := func(amount string) map[string]any {
		return claims(map[string]any{
			"filter": map[string]any{"all": []any{map[string]any{"field": "claimed", "op": "over", "value": amount}}},
		})
	}
	key := tamsin.do("POST", "/api/views", map[string]any{
		"name": "Dear ones", "document": over("25"), "shares": everyone,
	}).body["key"].(string)
	save := func(c *client, name, amount string, base int) answer {
		return c.do("PUT", "/api/views/"+key, map[string]any{"name": name, "document": over(amount), "base": base})
	}
	require.Equal(t, 200, save(tamsin, "Dear ones", "50", 1).code)
	require.Equal(t, 200, save(tamsin, "Dearest", "50", 2).code)
	save(tamsin, "Late", "75", 1).refused(t, 409, "Look at both, and choose.")

	a := jory.do("GET", "/api/views/"+key+"/versions", nil)
	require.Equal(t, 200, a.code, a.text)
	versions := a.body["versions"].([]any)
	require.Len(t, versions, 3)
	require.Equal(t, []any{"renamed from “Dear ones” to “Dearest”"}, versions[0].(map[string]any)["changes"])
	require.Equal(t, []any{
		"claimed is over 25.00 became claimed is over 50.00",
	}, versions[1].(map[string]any)["changes"])
	require.Equal(t, []any{}, versions[2].(map[string]any)["changes"])
	require.Contains(t, jory.do("GET", "/api/views/"+key+"/versions/1", nil).text, `"value":"25"`)

	// Opening is counted for everybody, reading is not.
	require.Equal(t, 200, jory.do("GET", "/api/views/"+key+"?open=true", nil).code)
	require.Equal(t, 200, jory.do("GET", "/api/views/"+key+"?open=true", nil).code)
	require.Equal(
		t, 200, tamsin.do("PUT", "/api/views/"+key+"/mark", map[string]any{"label": "Money", "mark": "honey"}).code,
	)
	mine := func(c *client) map[string]any {
		for _, v := range c.do("GET", "/api/views", nil).body["views"].([]any) {
			if v := v.(map[string]any); v["key"] == key {
				return v
			}
		}
		return nil
	}
	require.EqualValues(t, 2, mine(tamsin)["opened"])
	require.Equal(
		t, []any{"Money", "honey", []any{"Claimed"}},
		[]any{mine(jory)["label"], mine(jory)["mark"], mine(jory)["fields"]},
	)

	require.Equal(t, 204, tamsin.do("DELETE", "/api/views/"+key, nil).code)
	require.Nil(t, mine(tamsin))
	jory.do("GET", "/api/views/"+key, nil).refused(t, 404, "There is no such view")
	jory.do("GET", "/api/views/"+key+"/versions", nil).refused(t, 404, "There is no such view")
	save(tamsin, "Binned", "75", 3).refused(t, 404, "There is no such view")
	require.Equal(t, []string{"Dearest"}, tamsin.do("GET", "/api/bin", nil).list(t, "views", "name"))
	require.Empty(t, jory.do("GET", "/api/bin", nil).body["views"])
	jory.do("POST", "/api/bin/"+key, nil).refused(t, 404, "no such view in your bin")
	require.Equal(t, 200, tamsin.do("POST", "/api/bin/"+key, nil).code)
	require.NotNil(t, mine(jory))
	tamsin.do("DELETE", "/api/bin/"+key, nil).refused(t, 404, "no such view in your bin")
	require.Equal(t, 204, tamsin.do("DELETE", "/api/views/"+key, nil).code)
	require.Equal(t, 204, tamsin.do("DELETE", "/api/bin/"+key, nil).code)
	require.Equal(t, "0", g.Ask(t, `SELECT count(*)::text FROM gavrik.view_versions WHERE name = 'Dearest'`))
}

// A changed password and signing out everywhere end every other session at once.
func TestPasswordAndSignOutEverywhere(t *testing.T) {
	g := harness.Start(t)
	here, there := person(t, g, 0), person(t, g, 0)
	change := func(old, fresh string) answer {
		return here.do("PUT", "/api/password", map[string]any{"old": old, "new": fresh})
	}
	change(demo.Password, "short").refused(t, 422, "use at least 10 characters")
	change("not the one", "a much longer one").refused(t, 403, "Nothing was changed.")
	require.Equal(t, 200, there.do("GET", "/api/session", nil).code)
	require.Equal(t, 204, change(demo.Password, "a much longer one").code)
	require.Equal(t, 200, here.do("GET", "/api/session", nil).code, "one goes on where one is")
	there.do("GET", "/api/session", nil).refused(t, 401, "Sign in to go on.")
	sign := func(password string) answer {
		return stranger(t, g).do("POST", "/api/session", map[string]any{
			"email": demo.People[0].Email, "password": password,
		})
	}
	sign(demo.Password).refused(t, 401, "not right")
	require.Equal(t, 200, sign("a much longer one").code)
	require.NotContains(
		t, g.Ask(t, `SELECT password_hash FROM gavrik.people WHERE email = $1`, demo.People[0].Email), "longer",
	)

	other := person(t, g, 1)
	require.Equal(t, 204, here.do("DELETE", "/api/sessions", nil).code)
	here.do("GET", "/api/session", nil).refused(t, 401, "Sign in to go on.")
	require.Equal(t, 200, other.do("GET", "/api/session", nil).code, "others are not touched")
	// Ten wrong guesses at the old password stop more of them.
	for range 10 {
		other.do("PUT", "/api/password", map[string]any{"old": "guess", "new": "a much longer one"})
	}
	other.do("PUT", "/api/password", map[string]any{
		"old": demo.Password, "new": "a much longer one",
	}).refused(t, 429, "Too many failed attempts; wait")
}
