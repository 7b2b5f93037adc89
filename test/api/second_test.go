package api

import (
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// A second factor from its setting up to its loss: the password alone opens nothing, no
// code is taken twice, and administrators may ask it of everybody.
func TestSecondFactor(t *testing.T) {
	g := harness.Start(t)
	admin, jory := person(t, g, 0), person(t, g, 1)
	begun := jory.do("POST", "/api/second-factor", nil)
	require.Equal(t, 200, begun.code, begun.text)
	require.Contains(t, begun.body["picture"], "data:image/png;base64,")
	code := func(later time.Duration) string {
		text, err := totp.GenerateCode(begun.body["secret"].(string), time.Now().Add(later))
		require.NoError(t, err)
		return text
	}
	jory.do("PUT", "/api/second-factor", map[string]any{
		"code": code(-time.Hour),
	}).refused(t, 403, "is not the code that the app shows just now")
	signIn := func(code string) answer {
		return stranger(t, g).do("POST", "/api/session", map[string]any{
			"email": demo.People[1].Email, "password": demo.Password, "code": code,
		})
	}
	require.Equal(t, 200, signIn("").code, "not asked for before it was confirmed")
	used := code(0)
	confirmed := jory.do("PUT", "/api/second-factor", map[string]any{"code": used})
	require.Equal(t, 200, confirmed.code, confirmed.text)
	spare := confirmed.body["spare"].([]any)
	require.Len(t, spare, 10)
	require.Equal(t, 409, jory.do("POST", "/api/second-factor", nil).code, "one at a time")
	require.Equal(t, true, jory.do("GET", "/api/session", nil).body["second"])

	missing := signIn("")
	missing.refused(t, 401, "Type the code that your app shows, too.")
	require.Contains(t, missing.text, "body.code")
	signIn(used).refused(t, 401, "or the code is not right")
	next := code(30 * time.Second)
	require.Equal(t, 200, signIn(next).code)
	signIn(next).refused(t, 401, "or the code is not right")
	require.Equal(t, 200, signIn(spare[0].(string)).code)
	signIn(spare[0].(string)).refused(t, 401, "or the code is not right")
	stranger(t, g).do("POST", "/api/session", map[string]any{
		"email": demo.People[1].Email, "password": "guess", "code": spare[1],
	}).refused(t, 401, "not right")

	// Of everybody: whoever has none sets it up first.
	require.Equal(t, 204, admin.do("PUT", "/api/second-factor/required", map[string]any{"required": true}).code)
	require.Equal(t, 200, jory.do("GET", "/api/views", nil).code)
	wen := person(t, g, 2)
	require.Equal(t, true, wen.do("GET", "/api/session", nil).body["secondDue"])
	wen.do("GET", "/api/views", nil).refused(t, 403, "Set yours up first")
	begun = wen.do("POST", "/api/second-factor", nil)
	require.Equal(t, 200, wen.do("PUT", "/api/second-factor", map[string]any{"code": code(0)}).code)
	require.Equal(t, 200, wen.do("GET", "/api/views", nil).code)
	jory.do("POST", "/api/second-factor/off", map[string]any{
		"code": spare[2],
	}).refused(t, 403, "an administrator has settled that")
	admin.do("GET", "/api/views", nil).refused(t, 403, "Set yours up first")

	// An app that is lost: an administrator takes it away.
	begun = admin.do("POST", "/api/second-factor", nil)
	require.Equal(t, 200, admin.do("PUT", "/api/second-factor", map[string]any{"code": code(0)}).code)
	require.Equal(t, 204, admin.do("PUT", "/api/second-factor/required", map[string]any{"required": false}).code)
	wenID := g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[2].Email)
	require.Equal(t, 204, admin.do("DELETE", "/api/people/"+wenID+"/second-factor", nil).code)
	require.Equal(t, false, wen.do("GET", "/api/session", nil).body["second"])
	require.Equal(t, 204, jory.do("POST", "/api/second-factor/off", map[string]any{"code": spare[3]}).code)
	require.Equal(t, 200, signIn("").code)
	require.Contains(
		t, admin.do("GET", "/api/audit?words=second+factor", nil).text, "a second factor is required of everybody",
	)
}
