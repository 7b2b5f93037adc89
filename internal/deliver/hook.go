package deliver

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"syscall"
	"time"

	"gavrik/internal/export"
	"gavrik/internal/store"
)

// hookPrefix begins the secret that posts are signed with, after the Standard Webhooks specification.
const hookPrefix = "whsec_"

// NewHookSecret makes one.
func NewHookSecret() string {
	key := make([]byte, 24)
	_, _ = rand.Read(key) // it never fails
	return hookPrefix + base64.StdEncoding.EncodeToString(key)
}

// CheckHook says what is wrong with an address to be posted to. private lets it be one of a private
// network, without HTTPS.
func CheckHook(address string, private bool) error {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.User != nil || len(address) > 2000 {
		return fmt.Errorf("%q is no address that can be posted to; write it as https://company.example/path", address)
	}
	if u.Scheme != "https" && (u.Scheme != "http" || !private) {
		return errors.New("only addresses that begin with https:// are posted to")
	}
	if ip, err := netip.ParseAddr(strings.Trim(u.Hostname(), "[]")); err == nil && !private && !public(ip) {
		return errPrivate
	}
	return nil
}

var errPrivate = errors.New("this is an address of a private network; whoever runs Gavrik has to allow those with --allow-private-hooks")

// shared is what carriers use among themselves (RFC 6598).
var shared = netip.MustParsePrefix("100.64.0.0/10")

// public says whether an address is one of the open net.
func public(ip netip.Addr) bool {
	ip = ip.Unmap()
	return ip.IsGlobalUnicast() && !ip.IsPrivate() && !shared.Contains(ip)
}

// hookClient posts to addresses of the open net or, with private, to any. Names are looked up by the
// dialer alone, and what it found is what is judged, so that a name cannot mean something else a
// moment later.
func hookClient(private bool) *http.Client {
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: func(_, address string, _ syscall.RawConn) error {
		at, err := netip.ParseAddrPort(address)
		if err != nil || !private && !public(at.Addr()) {
			return errPrivate
		}
		return nil
	}}
	return &http.Client{
		Timeout: 30 * time.Second,
		Transport: &http.Transport{
			DialContext: dialer.DialContext, TLSHandshakeTimeout: 10 * time.Second, DisableKeepAlives: true,
		},
		CheckRedirect: func(*http.Request, []*http.Request) error {
			return http.ErrUseLastResponse // it was not what was allowed
		},
	}
}

// posted is what is sent to an address on the web.
type posted struct {
	Type string    `json:"type"`
	At   time.Time `json:"timestamp"`
	Data postedOf  `json:"data"`
}

type postedOf struct {
	Delivery string `json:"delivery"`
	View     string `json:"view"`
	Subject  string `json:"subject"`
	Link     string `json:"link,omitempty"`
	Again    bool   `json:"again,omitempty"`
	export.Letter
	Board *boardLetter `json:"board,omitempty"`
	Files []postedFile `json:"files,omitempty"`
}

type postedFile struct {
	Name    string `json:"name"`
	Media   string `json:"media"`
	Content []byte `json:"content"` // base64
}

// post sends a letter to an address on the web.
func post(ctx context.Context, client *http.Client, d store.Delivery, l addressed, link string, again bool) error {
	body := posted{"delivery", l.At, postedOf{
		Delivery: d.Key, View: d.View, Subject: l.Subject, Link: link, Again: again, Board: l.Board,
	}}
	if l.View != nil {
		body.Data.Letter = *l.View
	}
	for _, f := range l.Files {
		body.Data.Files = append(body.Data.Files, postedFile(f))
	}
	text, err := json.Marshal(body)
	if err != nil {
		return err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, l.Address, bytes.NewReader(text))
	if err != nil {
		return &SendError{Why: err.Error(), Final: true}
	}
	at := strconv.FormatInt(l.At.Unix(), 10)
	signature, err := signed(d.HookSecret, l.ID, at, text)
	if err != nil {
		return &SendError{Why: err.Error(), Final: true}
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("webhook-id", l.ID)
	r.Header.Set("webhook-timestamp", at)
	r.Header.Set("webhook-signature", signature)
	res, err := client.Do(r)
	if err != nil {
		return &SendError{Why: "it cannot be reached: " + err.Error(), Final: errors.Is(err, errPrivate), Maybe: true}
	}
	defer res.Body.Close()
	said, _ := io.ReadAll(io.LimitReader(res.Body, 200)) // for people; a part will do
	switch {
	case res.StatusCode < 300:
		return nil
	case res.StatusCode == http.StatusGone: // as the specification has it
		return &SendError{Why: "it answers that it is gone (410)", Final: true}
	}
	return &SendError{Why: strings.TrimSpace(fmt.Sprintf("it answered %s %s", res.Status, said))}
}

// signed is the signature of a post: "v1," and the HMAC of its number, its moment and its text.
func signed(secret, id, at string, text []byte) (string, error) {
	key, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(secret, hookPrefix))
	if err != nil {
		return "", errors.New("the secret of the hook cannot be read; make a new one")
	}
	h := hmac.New(sha256.New, key)
	fmt.Fprintf(h, "%s.%s.%s", id, at, text)
	return "v1," + base64.StdEncoding.EncodeToString(h.Sum(nil)), nil
}
