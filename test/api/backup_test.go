package api

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/store"
	"gavrik/test/harness"
)

// What a backup holds, restored into an empty database, says the same: every view, what people said about
// records and filled in, files they brought in, kept results; and people sign in as before.
func TestABackupRestored(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory := person(t, g, 0), person(t, g, 1)
	id := jory.send("surcharges.csv", surcharges)
	jory.read(id, "", "code")
	require.Equal(t, 200, jory.bring(id, object{"name": "Surcharges of winter", "one": "surcharge"}).code)
	require.Equal(
		t, 201,
		tamsin.do(
			"POST", "/api/facts/vessels", object{"label": "Refit", "type": "text", "fill": object{"role": "analyst"}},
		).code,
	)
	vessels := object{"gavrik": 1, "records": "vessels", "columns": []any{field("name"), field("refit")}}
	filled := tamsin.do(
		"POST", "/api/facts/vessels/refit/values",
		object{"values": []any{object{"record": g.Ask(t, "SELECT min(name) FROM vessels"), "value": "in spring"}}},
	)
	require.Equal(t, 200, filled.code, filled.text)
	prices := document(
		"surcharges_of_winter", object{"field": "surcharge_eur", "totals": []any{object{"fn": "sum"}}},
	)
	saved := tamsin.saveAlone(
		"Owed", claims(object{"columns": []any{summed("claimed")}, "groups": []any{object{"field": "status"}}}),
	)
	kept := tamsin.do(
		"POST", "/api/views/"+saved+"/kept",
		object{"view": tamsin.do("GET", "/api/views/"+saved, nil).body["document"]},
	)
	require.Equal(t, 201, kept.code, kept.text)

	// everything is all that two servers are compared by.
	everything := func(c, owner *client) map[string]any {
		out := map[string]any{}
		for _, doc := range []object{vessels, claims(nil)} {
			out[doc["records"].(string)] = said(
				t, c.do("POST", "/api/run", object{"view": doc, "depth": 1, "limit": 100, "plain": true}),
			)
		}
		out["prices"] = said(
			t, owner.do("POST", "/api/run", object{"view": prices, "depth": 1, "limit": 100, "plain": true}),
		)
		for _, v := range c.do("GET", "/api/views", nil).body["views"].([]any) {
			key := v.(object)["key"].(string)
			view := c.do("GET", "/api/views/"+key, nil)
			out[key] = view.body["document"]
			if doc := view.body["document"].(object); doc["records"] != nil {
				if a := c.do(
					"POST", "/api/run", object{"view": doc, "depth": 9, "limit": 500, "plain": true},
				); a.code == 200 {
					out[key+" says"] = said(t, a)
				}
			}
		}
		out["kept"] = said(
			t,
			c.asked(
				kept.body["key"].(string), "/api/run",
				object{"view": claims(nil), "depth": 9, "limit": 100, "plain": true},
			),
		)
		out["definitions"] = c.do("GET", "/api/definitions", nil).body
		out["groups"] = c.do("GET", "/api/groups", nil).body
		return out
	}
	var file bytes.Buffer
	_, err := g.Store.Backup(t.Context(), &file)
	require.NoError(t, err)
	before := everything(tamsin, jory)
	require.Greater(t, len(before), 15)

	url := pgtest.Database(t)
	broken := bytes.Clone(file.Bytes())
	broken[len(broken)/2] ^= 1
	_, err = store.Restore(t.Context(), url, bytes.NewReader(broken), int64(len(broken)))
	require.Error(t, err, "a byte is another")
	_, err = store.Restore(t.Context(), url, bytes.NewReader(broken[:1000]), 1000)
	require.ErrorContains(t, err, "no backup")
	b, err := store.Restore(t.Context(), url, bytes.NewReader(file.Bytes()), int64(file.Len()))
	require.NoError(t, err, "nothing of the broken one is there")
	require.NotEmpty(t, b.Tables)
	_, err = store.Restore(t.Context(), url, bytes.NewReader(file.Bytes()), int64(file.Len()))
	require.ErrorIs(t, err, store.ErrOccupied)

	h := harness.StartOver(t, g, url)
	boss, analyst := person(t, h, 0), person(t, h, 1)
	require.Equal(t, before, everything(boss, analyst))
	require.NotEqual(t, saved, boss.saveAlone("A later one", claims(nil)), "and it goes on from there")
}
