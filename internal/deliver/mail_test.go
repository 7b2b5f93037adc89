package deliver

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"math/big"
	"net"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/demo/mailbox"
)

// certified is a certificate of loopback's own, and who trusts it.
func certified(t *testing.T) (server, client *tls.Config) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{
		SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
	}
	made, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	require.NoError(t, err)
	known, err := x509.ParseCertificate(made)
	require.NoError(t, err)
	roots := x509.NewCertPool()
	roots.AddCert(known)
	return &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{made}, PrivateKey: key}}},
		&tls.Config{RootCAs: roots, ServerName: "127.0.0.1"}
}

// serving listens on loopback for a mailbox, over a line that is kept as said.
func serving(t *testing.T, box *mailbox.Box, config *tls.Config, safe bool) int {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	s := smtp.NewServer(box)
	s.Domain, s.TLSConfig = "localhost", config
	port := l.Addr().(*net.TCPAddr).Port
	if safe {
		l = tls.NewListener(l, config)
	}
	go func() { _ = s.Serve(l) }() // it ends with Close
	t.Cleanup(func() { _ = s.Close() })
	return port
}

func letter() addressed {
	return addressed{
		Written: Written{Subject: "Ansprüche — à traiter ✓", Text: "Grüße", HTML: "<p>Grüße</p>", Files: []File{
			{"Übersicht №1.csv", "text/csv; charset=utf-8", []byte("a;b\r\n1;2\r\n")},
		}},
		ID: "letter-1@gavrik.example", Name: "Jórunn, “J.” Håle", Address: "jory@marrowby.example", At: time.Now(),
		Stop: "https://gavrik.example/stop/x", Try: 2,
	}
}

// Letters are handed in over a safe line, or not at all; accents and files come through.
func TestLettersGoOverASafeLine(t *testing.T) {
	box, err := mailbox.Open()
	require.NoError(t, err)
	t.Cleanup(func() { _ = box.Close() })
	server, client := certified(t)
	m := MailServer{Host: "127.0.0.1", From: "Gavrik <gavrik@marrowby.example>", Patience: 5 * time.Second}
	for _, c := range []struct {
		name     string
		security Security
		port     int
		roots    *tls.Config
		wrong    string
	}{
		{"made safe", StartTLS, serving(t, box, server, false), client, ""},
		{"safe from the start", TLS, serving(t, box, server, true), client, ""},
		{"nobody vouches for it", StartTLS, serving(t, box, server, false), nil, "certificate"},
		{"it cannot be made safe", StartTLS, serving(t, box, nil, false), client, "STARTTLS"},
	} {
		m.Security, m.Port, m.Roots = c.security, c.port, c.roots
		err := m.send(t.Context(), letter())
		if c.wrong != "" {
			var failed *SendError
			require.ErrorAs(t, err, &failed, c.name)
			require.ErrorContains(t, err, c.wrong)
			require.False(t, failed.Final, "it may be mended")
			continue
		}
		require.NoError(t, err, c.name)
		got := box.Letters()[0]
		sent := letter()
		require.Equal(t, []any{sent.Subject, sent.Text, sent.HTML}, []any{got.Subject, got.Text, got.HTML})
		require.Equal(t, sent.Files[0].Name, got.Files[0].Name)
		require.Equal(t, sent.Files[0].Content, got.Files[0].Content)
		require.Equal(t, "<"+sent.ID+">", got.Header.Get("Message-Id"))
		require.Equal(t, "<"+sent.Stop+">", got.Header.Get("List-Unsubscribe"))
		to, err := got.Header.AddressList("To")
		require.NoError(t, err)
		require.Equal(t, sent.Name, to[0].Name)
	}
	require.Len(t, box.Letters(), 2)
}

// A server that takes the line and says nothing is not waited for without end.
func TestAMailServerThatSaysNothing(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	m := MailServer{
		Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, From: "gavrik@marrowby.example", Security: Plain,
		Patience: 300 * time.Millisecond,
	}
	var failed *SendError
	require.ErrorAs(t, m.send(t.Context(), letter()), &failed)
	require.False(t, failed.Final)
	require.Contains(t, failed.Why, "cannot be reached")
}

// Whatever is typed, what is taken for an address is one line and goes to a domain that is allowed.
func TestAddressesAreOneLineEach(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.OneOf(
			rapid.String(), rapid.StringMatching(`[a-z.<>"\r\n, ]{0,6}@[a-z.\r\n<>, ]{0,6}(quay\.example)?`),
		).Draw(t, "typed")
		list, err := Addresses([]string{text}, Outside{"quay.example"})
		if err != nil {
			return
		}
		for _, address := range list {
			require.NotContains(t, address, "\n")
			require.NotContains(t, address, "\r")
			require.Regexp(t, `^[^<>,\s]+@quay\.example$`, address)
		}
	})
	list, err := Addresses([]string{" A@Quay.example", "a@quay.example"}, Outside{"*"})
	require.NoError(t, err)
	require.Equal(t, []string{"a@quay.example"}, list)
}
