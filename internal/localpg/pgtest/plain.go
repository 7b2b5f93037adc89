package pgtest

import (
	"bytes"
	"encoding/binary"
	"io"
	"net"
	"net/url"
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"
)

// beyond is what a server need not know that merely speaks PostgreSQL's protocol.
var beyond = regexp.MustCompile(
	`(?i)\b(pg_|(isfinite|width_bucket|date_bin|regclass|infinity|EXPLAIN|LATERAL)\b)|_timeout\b| BC'|^\s*COPY\b`,
)

// Plain returns the address of a server that answers as a database does, but refuses statements that only
// PostgreSQL understands.
func Plain(t *testing.T, address string) string {
	at, err := url.Parse(address)
	require.NoError(t, err)
	return between(t, at, func() string { return at.Host }, func(server, client net.Conn) {
		go func() {
			_, _ = io.Copy(client, server)
			_ = client.Close()
		}()
		go func() {
			_ = plainly(server, client)
			_ = server.Close()
		}()
	})
}

// plainly passes on what a client says, and something that fails in the place of what is refused
// (PostgreSQL's documentation, "Frontend/Backend Protocol": a length, and before it, once a session has
// begun, a letter).
func plainly(to io.Writer, from io.Reader) error {
	const startup = 196608
	begun := false
	for {
		head := make([]byte, 4)
		if begun {
			head = make([]byte, 5)
		}
		if _, err := io.ReadFull(from, head); err != nil {
			return err
		}
		size := binary.BigEndian.Uint32(head[len(head)-4:]) - 4
		body := make([]byte, size)
		if _, err := io.ReadFull(from, body); err != nil {
			return err
		}
		switch {
		case !begun:
			begun = binary.BigEndian.Uint32(body) == startup
		case head[0] == 'Q' || head[0] == 'P':
			name, rest := []byte(nil), body
			if head[0] == 'P' { // the name of what is prepared
				end := bytes.IndexByte(body, 0) + 1
				name, rest = body[:end], body[end:]
			}
			end := bytes.IndexByte(rest, 0)
			if beyond.Match(rest[:end]) {
				body = append(append(bytes.Clone(name), `SELECT "not known here"`...), rest[end:]...)
				binary.BigEndian.PutUint32(head[1:], uint32(len(body)+4))
			}
		}
		if _, err := to.Write(append(head, body...)); err != nil {
			return err
		}
	}
}
