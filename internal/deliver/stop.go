package deliver

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"strings"
)

// StopPath is where people ask for no more of a delivery, without signing in.
const StopPath = "/stop/"

// stopLink is the address at which an address of people asks for no more of a delivery. It cannot be
// guessed: its end is made with a secret of the installation.
func (s *Service) stopLink(delivery, address string) string {
	if s.app.Public.Host == "" {
		return ""
	}
	return s.app.Public.String() + StopPath + s.stopToken(delivery, address)
}

func (s *Service) stopToken(delivery, address string) string {
	whole := delivery + "." + base64.RawURLEncoding.EncodeToString([]byte(strings.ToLower(address)))
	return whole + "." + s.sealOf(whole)
}

func (s *Service) sealOf(text string) string {
	h := hmac.New(sha256.New, s.seal)
	_, _ = h.Write([]byte("stop " + text)) // a hash takes everything
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:18])
}

// Stop is what a stop link is for.
type Stop struct {
	Delivery, Address string
	// View names what is delivered, When says when.
	View, When string
	Stopped    bool
}

// StopOf reads a stop link's end; ok is false for one that nobody was sent, or whose delivery was ended.
func (s *Service) StopOf(ctx context.Context, token string) (Stop, bool, error) {
	parts := strings.Split(token, ".")
	if len(parts) != 3 || !hmac.Equal([]byte(s.sealOf(parts[0]+"."+parts[1])), []byte(parts[2])) {
		return Stop{}, false, nil
	}
	address, err := base64.RawURLEncoding.DecodeString(parts[1])
	if err != nil {
		return Stop{}, false, nil
	}
	d, err := s.app.Store.Delivery(ctx, parts[0])
	if err != nil {
		return Stop{}, false, notThere(err)
	}
	_, rule, _, err := TermsOf(d)
	if err != nil {
		return Stop{}, false, err
	}
	out := Stop{Delivery: d.Key, Address: string(address), View: d.ViewName, When: When(rule)}
	out.Stopped, err = s.app.Store.Stopped(ctx, d.Key, out.Address)
	return out, err == nil, err
}
