package web

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The address of a request is that of the last hop before trusted proxies; what a caller
// makes up is worth nothing.
func TestWhereARequestComesFrom(t *testing.T) {
	proxies, err := ParseProxies([]string{"10.0.0.7", "10.1.0.0/16", "fd00::/8"})
	require.NoError(t, err)
	_, err = ParseProxies([]string{"the proxy"})
	require.ErrorContains(t, err, "is neither an address nor a network")
	s := &server{Options: Options{Proxies: proxies}}
	for _, c := range []struct{ remote, forwarded, want string }{
		{"192.0.2.1:99", "", "192.0.2.1"}, {"192.0.2.1:99", "198.51.100.9", "192.0.2.1"},
		{"10.0.0.7:99", "198.51.100.9", "198.51.100.9"},
		{"10.0.0.7:99", "203.0.113.5, 198.51.100.9", "198.51.100.9"},
		{"10.0.0.7:99", "198.51.100.9, 10.1.2.3", "198.51.100.9"},
		{"10.0.0.7:99", "198.51.100.9, nonsense", "10.0.0.7"}, {"10.0.0.7:99", "", "10.0.0.7"},
		{"[fd00::1]:99", "2001:db8::5", "2001:db8::5"},
	} {
		r := httptest.NewRequest("GET", "/", nil)
		r.RemoteAddr = c.remote
		if c.forwarded != "" {
			r.Header.Set("X-Forwarded-For", c.forwarded)
		}
		got := ""
		s.clientAddress(http.HandlerFunc(
			func(_ http.ResponseWriter, r *http.Request) { got = hostOf(r.RemoteAddr) },
		)).ServeHTTP(httptest.NewRecorder(), r)
		require.Equal(t, c.want, got, "%+v", c)
	}
}

// A body is refused exactly if one of its texts holds U+0000.
func TestOnlyTheCharacterItselfIsRefused(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(
			rapid.SliceOf(rapid.SampledFrom(
				[]string{"\x00", "\\", "u0000", "\\u0000", "a", "\"", "\n"},
			)).Draw(t, "parts"),
			"",
		)
		body, err := json.Marshal(map[string]string{"text": text})
		require.NoError(t, err)
		require.Equal(t, strings.ContainsRune(text, 0), holdsNUL(body), "%q", body)
	})
}
