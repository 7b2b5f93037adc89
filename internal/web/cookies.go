package web

import (
	"context"
	"crypto/rand"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
)

// Names of the cookies. Over HTTPS they begin with __Host-, so that no other host of the
// domain can set them (RFC 6265bis, 4.1.3.2).
const (
	sessionCookie = "gavrik"
	deviceCookie  = "gavrik-device"
	flowCookie    = "gavrik-flow"
	seenCookie    = "gavrik-seen"
)

const (
	sessionLasts = 30 * 24 * time.Hour
	deviceLasts  = 400 * 24 * time.Hour
	flowLasts    = 15 * time.Minute
	seenLasts    = 24 * time.Hour
)

// secret makes what a cookie holds; only its hash is kept.
func secret() string { return strings.ToLower(rand.Text() + rand.Text()) }

// cookieName is a cookie's name on this server.
func (s *entrance) cookieName(name string) string {
	if s.secureCookies {
		return "__Host-" + name
	}
	return name
}

// cookie holds a value for so long; an empty value ends it.
func (s *entrance) cookie(name, value string, lasts time.Duration) *http.Cookie {
	age := int(lasts.Seconds())
	if value == "" {
		age = -1
	}
	return &http.Cookie{
		Name: s.cookieName(name), Value: value, Path: "/", MaxAge: age, HttpOnly: true, Secure: s.secureCookies,
		SameSite: http.SameSiteLaxMode,
	}
}

type cookiesKey struct{}

// requestCookies is what a request brings beside its body, and the way to set cookies.
type requestCookies struct {
	w       http.ResponseWriter
	agent   string
	session string
	device  string
	// seen is the moment of the newest records that the browser was shown, by whichever server.
	seen time.Time
	// cookie makes one to set.
	cookie func(name, value string, lasts time.Duration) *http.Cookie
}

// sees notes that the browser is shown records of a moment.
func (h *requestCookies) sees(asOf time.Time) {
	if asOf.After(h.seen) {
		h.seen = asOf
		http.SetCookie(h.w, h.cookie(seenCookie, strconv.FormatInt(asOf.UnixMicro(), 10), seenLasts))
	}
}

// withCookies puts the cookies of a request into its context, for the operations.
func (s *entrance) withCookies(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := &requestCookies{w: w, agent: strings.ToValidUTF8(r.UserAgent(), ""), cookie: s.cookie}
		if c, err := r.Cookie(s.cookieName(sessionCookie)); err == nil {
			h.session = c.Value
		}
		if c, err := r.Cookie(s.cookieName(deviceCookie)); err == nil {
			h.device = c.Value
		}
		if c, err := r.Cookie(s.cookieName(seenCookie)); err == nil {
			if at, err := strconv.ParseInt(c.Value, 10, 64); err == nil {
				h.seen = time.UnixMicro(at)
			}
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), cookiesKey{}, h)))
	})
}

func cookiesOf(ctx context.Context) *requestCookies { return ctx.Value(cookiesKey{}).(*requestCookies) }

// caller notes where an attempt comes from.
type caller struct{ address string }

type callerInput struct{ caller }

// Resolve reads the address.
func (c *caller) Resolve(ctx huma.Context) []error {
	c.address = hostOf(ctx.RemoteAddr())
	return nil
}
