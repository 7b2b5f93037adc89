package api

import (
	"encoding/csv"
	"fmt"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// names are those of a list of things.
func names(a answer, list string) (out []string) {
	for _, x := range a.body[list].([]any) {
		out = append(out, x.(map[string]any)["name"].(string))
	}
	return out
}

// numbers are those of two of the demo's people, and of a group.
func numbers(t *testing.T, g *harness.Gavrik, group string) (jory, wen, desk int) {
	read := func(sql, arg string) (n int) {
		_, err := fmt.Sscan(g.Ask(t, sql, arg), &n)
		require.NoError(t, err)
		return n
	}
	const id = "SELECT id::text FROM gavrik.people WHERE email = $1"
	return read(id, demo.People[1].Email), read(id, demo.People[2].Email), read(
		"SELECT id::text FROM gavrik.groups WHERE name = $1", group,
	)
}

// Somebody comes, is known, moves between roles, and goes; each step holds at once.
func TestSomebodyComesAndGoes(t *testing.T) {
	g := harness.Start(t)
	admin := person(t, g, 0)
	add := func(send map[string]any) answer { return admin.do("POST", "/api/people", send) }
	for words, send := range map[string]map[string]any{
		"can sign in already":      {"email": "WEN@marrowby.example", "name": "W", "role": "reader"},
		"is not an e-mail address": {"email": "<b>@", "name": "W", "role": "reader"},
		"needs a name":             {"email": "w@marrowby.example", "name": " ", "role": "reader"},
		"body.role":                {"email": "w@marrowby.example", "name": "W", "role": "captain"},
	} {
		add(send).refused(t, 422, words)
	}
	a := add(map[string]any{
		"email": "ines@marrowby.example", "name": "Ines Sable", "role": "reader", "password": true,
	})
	require.Equal(t, 201, a.code, a.text)
	id := a.body["person"].(map[string]any)["id"].(float64)
	path := fmt.Sprintf("/api/people/%.0f", id)
	const chosen = "tide and lantern"
	signIn := func(password any) *client {
		c := stranger(t, g)
		if a := c.do("POST", "/api/session", map[string]any{
			"email": "ines@marrowby.example", "password": password,
		}); a.code == 200 && a.body["changing"] == true {
			// What somebody else has chosen opens nothing but the way to another.
			c.do("GET", "/api/views", nil).refused(t, 403, "Choose one of your own first")
			c.do("PUT", "/api/password", map[string]any{
				"old": password, "new": password,
			}).refused(t, 422, "choose another")
			require.Equal(t, 204, c.do("PUT", "/api/password", map[string]any{"old": password, "new": chosen}).code)
		}
		return c
	}
	ines := signIn(a.body["fresh"])
	require.Equal(t, "reader", ines.do("GET", "/api/session", nil).body["role"])
	require.Nil(t, ines.do("GET", "/api/session", nil).body["changing"])
	require.NotContains(t, admin.do("GET", "/api/people", nil).text, a.body["fresh"], "a password is told once")
	ines.save("Not hers to save", false).refused(t, 403, "to save and share needs the role of an analyst")
	change := func(role string, left bool) answer {
		return admin.do("PUT", path, map[string]any{
			"name": "Ines Sable", "role": role, "groups": []int{}, "traits": map[string]string{}, "left": left,
		})
	}
	require.Equal(t, 200, change("analyst", false).code)
	require.Equal(t, 201, ines.save("Hers to save", true).code)
	// A new password ends the sessions that the old one began.
	fresh := admin.do("POST", path+"/password", nil)
	require.Equal(t, 401, ines.do("GET", "/api/session", nil).code)
	ines = signIn(fresh.body["fresh"])
	require.Equal(t, 200, ines.do("GET", "/api/session", nil).code)
	// She goes: her session ends, her views stay, and are handed over.
	require.Equal(t, 200, change("analyst", true).code)
	ines.do("GET", "/api/session", nil).refused(t, 401, "Sign in")
	require.Equal(t, 401, signIn(chosen).do("GET", "/api/session", nil).code)
	jory, wen, _ := numbers(t, g, "Claims desk")
	admin.do("POST", path+"/views", map[string]any{"to": wen}).refused(t, 422, "Wen Aske cannot own views")
	require.Equal(t, float64(1), admin.do("POST", path+"/views", map[string]any{"to": jory}).body["views"])
	require.Contains(
		t, person(t, g, 1).do("GET", "/api/views", nil).text, `"name":"Hers to save","about":"","records":"Claims"`,
	)
	require.Equal(t, 200, change("analyst", false).code)
	require.Equal(t, 200, signIn(chosen).do("GET", "/api/session", nil).code)
	// The last administrator stays one.
	me := admin.do("GET", "/api/session", nil).body["id"].(float64)
	admin.do("PUT", fmt.Sprintf("/api/people/%.0f", me), map[string]any{
		"name": "Tamsin Marlow", "role": "analyst", "groups": []int{}, "traits": map[string]string{},
	}).refused(t, 422, "Nobody would be left to manage people")
	trail := admin.do("GET", "/api/audit?words=ines", nil).text
	for _, told := range []string{
		"added Ines Sable", "role: was reader, now analyst", "made a new one for Ines Sable",
		"signing in: was may sign in, now kept out", "all 1 views of Ines Sable",
	} {
		require.Contains(t, trail, told)
	}
	require.NotContains(t, trail, fresh.body["fresh"])
}

func TestGroupsShareAndKeepAtHand(t *testing.T) {
	g := harness.Start(t)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	_, _, desk := numbers(t, g, "Claims desk")
	with := func(edit bool) map[string]any {
		return map[string]any{"shares": []any{map[string]any{"group": desk, "edit": edit}}}
	}
	key := admin.save("Weekly", false).body["key"].(string)
	at := "/api/views/" + key
	favorite := map[string]any{"on": true, "group": desk}
	admin.do("PUT", at+"/favorite", favorite).refused(t, 422, "Share the view with them first")
	require.Equal(t, "Claims desk", admin.do("PUT", at+"/shares", with(false)).body["audience"])
	require.Equal(t, 200, admin.do("PUT", at+"/favorite", favorite).code)
	jory.do("PUT", at+"/favorite", favorite).refused(t, 403, "can put it on other people's desks")
	require.Contains(t, names(jory.do("GET", "/api/favorites", nil), "views"), "Weekly")
	named := with(true)
	named["name"], named["document"] = "At once", claims(nil)
	require.Equal(t, 201, admin.do("POST", "/api/views", named).code)
	require.Contains(
		t, admin.do("GET", "/api/audit?what=shared", nil).text, "view “At once” with Claims desk (edit)",
	)
	require.NotContains(t, names(wen.do("GET", "/api/favorites", nil), "views"), "Weekly")
	wen.do("GET", at, nil).refused(t, 404, "not shared with you")
	save := func(c *client, name string, base int) answer {
		return c.do("PUT", at, map[string]any{"name": name, "document": claims(nil), "base": base})
	}
	save(jory, "Jory's", 1).refused(t, 403, "Save a copy of your own instead")
	require.Equal(t, "Claims desk (edit)", admin.do("PUT", at+"/shares", with(true)).body["audience"])
	require.Equal(t, "Jory's", save(jory, "Jory's", 1).body["name"])
	save(admin, "Tamsin's", 1).refused(t, 409, "nothing was written")
	jory.do("PUT", at+"/shares", map[string]any{"shares": everyone}).refused(t, 403, "who alone can do this")
	jory.do("DELETE", at, nil).refused(t, 403, "who alone can do this")
	require.Contains(t, admin.do("GET", at+"/versions", nil).text, `"by":"Jory Hale"`)
	// A group that goes takes its shares along; another change of it meanwhile is kept.
	group := fmt.Sprintf("/api/groups/%d", desk)
	require.Equal(t, 200, admin.do("PUT", group, map[string]any{"name": "Claims desk", "base": 1}).code)
	admin.do("PUT", group, map[string]any{
		"name": "Claims office", "base": 1,
	}).refused(t, 409, "nothing was written")
	admin.do("POST", "/api/groups", map[string]any{
		"name": "CLAIMS desk",
	}).refused(t, 422, "There is a group of that name already")
	for words, limit := range map[string]map[string]any{
		`there is no record set \"moon\"`: {"set": "moon", "hidden": true},
		`Claims have no field \"moon\"`:   {"set": "claims", "fields": []string{"moon"}},
		"a view of claims with a filter":  {"set": "claims", "rule": claims(nil)},
		"did you mean": {
			"set":  "claims",
			"rule": claims(map[string]any{"filter": map[string]any{"field": "stats", "op": "filled"}}),
		},
	} {
		a := admin.do("PUT", group, map[string]any{"name": "Claims desk", "base": 2, "limits": []any{limit}})
		require.Equal(t, 422, a.code, a.text)
		require.Contains(t, strings.ToLower(a.text), strings.ToLower(words))
	}
	require.Equal(t, 204, admin.do("DELETE", group, nil).code)
	jory.do("GET", at, nil).refused(t, 404, "not shared with you")
	require.Equal(t, "only me", admin.do("GET", at, nil).body["audience"])
	// The group of those in no group cannot go.
	_, _, rest := numbers(t, g, "People in no group")
	admin.do("DELETE", fmt.Sprintf("/api/groups/%d", rest), nil).refused(t, 404, "There is no such group")
	// Handed over, it is another's.
	joryID, wenID, _ := numbers(t, g, "Port agents")
	admin.do("PUT", at+"/owner", map[string]any{"to": wenID}).refused(t, 422, "Choose an analyst")
	require.Equal(t, 204, admin.do("PUT", at+"/owner", map[string]any{"to": joryID}).code)
	admin.do("GET", at, nil).refused(t, 404, "not shared with you")
	require.Equal(t, true, jory.do("GET", at, nil).body["owned"])
}

// A token runs views as its person, answers and all, and can do nothing else.
func TestTokensRunViews(t *testing.T) {
	g := harness.Start(t)
	jory, wen := person(t, g, 1), person(t, g, 2)
	doc := document("claims", field("ref"), summed("claimed"))
	doc["filter"] = map[string]any{"all": []any{
		map[string]any{"field": "claimed", "op": "over", "value": "10"},
		map[string]any{
			"field": "status", "op": "one_of",
			"ask": map[string]any{"name": "status", "label": "Which status?", "required": true},
		},
	}}
	a := jory.do("POST", "/api/views", map[string]any{
		"name": `Claims: "a/b"`, "document": doc, "shares": everyone,
	})
	require.Equal(t, 201, a.code, a.text)
	made := jory.do("POST", "/api/tokens", map[string]any{"name": "nightly", "days": 30})
	token := made.body["token"].(string)
	require.NotContains(t, g.Ask(t, "SELECT string_agg(t::text, ' ') FROM gavrik.tokens t"), token)
	require.NotContains(t, jory.do("GET", "/api/tokens", nil).text, token)
	program := stranger(t, g)
	program.header["Authorization"] = "Bearer " + token
	result := "/api/views/" + a.body["key"].(string) + "/result"
	program.do("GET", result, nil).refused(t, 422, "“Which status?” waits for an answer")
	program.do("GET", result+"?answer.state=Open", nil).refused(
		t, 422, `The view asks nothing called \"state\"; it asks status`,
	)
	got := program.do("GET", result+"?answer.status="+url.QueryEscape("Open\nRefused"), nil)
	require.Equal(t, 200, got.code, got.text)
	require.Equal(t, `attachment; filename="Claims- -a-b-.csv"`, got.head.Get("Content-Disposition"))
	rows, err := csv.NewReader(strings.NewReader(got.text)).ReadAll()
	require.NoError(t, err)
	want := g.Ask(t, "SELECT count(*)::text FROM claims WHERE claimed > 10 AND status IN ('Open', 'Refused')")
	require.Equal(t, want, fmt.Sprint(len(rows)-1))
	asJSON := program.do("GET", result+"?format=json&answer.status=Open", nil)
	require.Equal(t, []any{
		map[string]any{"name": "status", "question": "Which status?", "answer": "status is Open"},
	}, asJSON.body["answers"], "answers stand apart")
	// As the person sees it, in the trail, and nothing but this.
	require.Contains(
		t, person(t, g, 0).do("GET", "/api/audit?what=exported", nil).text,
		want+" records, answering status=Open%0ARefused",
	)
	hers := wen.do("POST", "/api/tokens", map[string]any{"name": "hers", "days": 1}).body["token"].(string)
	program.header["Authorization"] = "Bearer " + hers
	fewer := program.do("GET", result+"?answer.status=Open", nil)
	require.Equal(t, 200, fewer.code)
	require.Equal(
		t,
		g.Ask(
			t,
			"SELECT (count(*) + 1)::text FROM claims x JOIN "+own+" ON x.booking_id = b.id WHERE claimed > 10 AND x.status = 'Open'",
		),
		fmt.Sprint(strings.Count(fewer.text, "\n")),
	)
	for _, path := range []string{"/api/session", "/api/views", "/api/people", "/api/tokens"} {
		program.do("GET", path, nil).refused(t, 401, "Sign in to go on")
	}
	program.do("POST", "/api/tokens", map[string]any{
		"name": "more", "days": 30,
	}).refused(t, 401, "Sign in to go on")
	for _, guess := range []string{token[:len(token)-1], strings.ToUpper(token), "' OR '1'='1"} {
		program.header["Authorization"] = "Bearer " + guess
		program.do("GET", result, nil).refused(t, 401, "This token is not known")
	}
	// Revoked, run out, or of somebody who has left, it is worth nothing.
	program.header["Authorization"] = "Bearer " + token
	_, err = g.DB.Exec(t.Context(), "UPDATE gavrik.tokens SET ends_at = now() WHERE name = 'nightly'")
	require.NoError(t, err)
	program.do("GET", result, nil).refused(t, 401, "has ended")
	_, err = g.DB.Exec(
		t.Context(),
		"UPDATE gavrik.tokens SET ends_at = now() + interval '1 day'; UPDATE gavrik.people SET left_at = now() WHERE name = 'Wen Aske'",
	)
	require.NoError(t, err)
	require.Equal(t, 200, program.do("GET", result+"?answer.status=Open", nil).code)
	id := jory.do("GET", "/api/tokens", nil).body["tokens"].([]any)[0].(map[string]any)["id"]
	require.Equal(t, 204, jory.do("DELETE", fmt.Sprintf("/api/tokens/%v", id), nil).code)
	program.do("GET", result, nil).refused(t, 401, "was revoked")
	program.header["Authorization"] = "Bearer " + hers
	program.do("GET", result, nil).refused(t, 401, "not known")
}

// New views start as administrators say; nobody else can change that, and what a reader
// may not see is no part of her start.
func TestStandards(t *testing.T) {
	g := harness.Start(t)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	start := func(c *client) map[string]any {
		for _, s := range c.do("GET", "/api/catalog", nil).body["sets"].([]any) {
			if set := s.(map[string]any); set["key"] == "claims" {
				return set
			}
		}
		return nil
	}
	suggested := start(jory)["standard"]
	put := func(c *client, send map[string]any) answer {
		return c.do("PUT", "/api/catalog/claims/standard", send)
	}
	put(jory, map[string]any{"columns": []string{"ref"}}).refused(t, 403, "Only an administrator")
	put(admin, map[string]any{"columns": []string{"moon"}}).refused(t, 422, "Claims have no field")
	put(admin, map[string]any{"view": document("bookings", field("ref"))}).refused(t, 422, "has to be of claims")
	require.Equal(
		t, 204,
		put(admin, map[string]any{"columns": []string{"ref", "paid", "category"}, "view": claims(nil)}).code,
	)
	require.Equal(t, []any{"ref", "paid", "category"}, start(jory)["standard"])
	require.Equal(t, "claims", start(jory)["start"].(map[string]any)["records"])
	require.Equal(t, []any{"ref", "category"}, start(wen)["standard"])
	hidden := claims(map[string]any{
		"filter": map[string]any{"all": []any{map[string]any{"field": "paid", "op": "filled"}}},
	})
	require.Equal(t, 204, put(admin, map[string]any{"view": hidden}).code)
	require.NotNil(t, start(jory)["start"])
	require.Nil(t, start(wen)["start"], "a view that she cannot run is no start")
	require.Equal(t, 204, put(admin, map[string]any{}).code)
	require.Equal(t, suggested, start(jory)["standard"])
}

// Ten thousand wrong passwords find nothing, hold nobody up for long, and do not fill the
// trail.
func TestTenThousandWrongPasswords(t *testing.T) {
	g := harness.Start(t)
	working := person(t, g, 1)
	var codes [600]atomic.Int64
	var wg sync.WaitGroup
	for worker := range 20 {
		c := stranger(t, g)
		wg.Go(func() {
			for i := range 500 {
				email := demo.People[i%len(demo.People)].Email
				if i%4 == 3 {
					email = fmt.Sprintf("guess%d@marrowby.example", i)
				}
				codes[c.do("POST", "/api/session", map[string]any{"email": email, "password": fmt.Sprint("wrong ", worker, i)}).code].Add(1)
			}
		})
	}
	wg.Wait()
	wrong, tooMany := codes[401].Load(), codes[429].Load()
	require.EqualValues(t, 10_000, wrong+tooMany)
	require.Less(t, wrong, int64(100), "those that were compared with a password")
	require.Equal(
		t, fmt.Sprint(wrong), g.Ask(t, "SELECT count(*)::text FROM gavrik.audit WHERE what = 'sign-in refused'"),
	)
	require.Equal(t, 200, working.do("GET", "/api/session", nil).code, "who is at work goes on")
	stranger(t, g).do("POST", "/api/session", map[string]any{
		"email": demo.People[0].Email, "password": demo.Password,
	}).refused(t, 429, "Too many failed attempts; wait")
	require.Equal(
		t, 200,
		working.do("POST", "/api/session", map[string]any{
			"email": demo.People[1].Email, "password": demo.Password,
		}).code,
		"nor is she kept out where she has been before",
	)
}
