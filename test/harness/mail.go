package harness

import (
	"net"
	"net/http"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/deliver"
	"gavrik/internal/demo/mailbox"
)

// Mail gives a server at an address a mail server of its own, whose letters it shows as the demo
// does. What is due is looked at when a test says so; tries of a letter follow each other at once.
func (p *Parts) Mail(t *testing.T, at string) *mailbox.Box {
	t.Helper()
	box, err := mailbox.Open()
	require.NoError(t, err)
	t.Cleanup(func() { _ = box.Close() }) // a test may have closed it
	p.App.Public.Scheme, p.App.Public.Host = "http", at[len("http://"):]
	p.Web.Beside = map[string]http.Handler{mailbox.Path: box.Handler()}
	p.Deliver = deliver.Options{
		Mail: MailServer(t, box), Every: time.Hour,
		Pauses: []time.Duration{time.Millisecond, time.Millisecond, time.Millisecond},
	}
	return box
}

// MailServer is how letters are handed to a box.
func MailServer(t *testing.T, box *mailbox.Box) *deliver.MailServer {
	t.Helper()
	host, port, err := net.SplitHostPort(box.Address)
	require.NoError(t, err)
	number, err := strconv.Atoi(port)
	require.NoError(t, err)
	return &deliver.MailServer{
		Host: host, Port: number, From: "Gavrik <gavrik@marrowby.example>", Security: deliver.Plain, Patience: 5 * time.Second,
	}
}
