// Package mailbox is a small mail server that keeps the letters it is handed and delivers none: so
// the demo shows what would be sent, and tests read it back.
package mailbox

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net"
	"net/mail"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"

	"gavrik/internal/core/fault"
)

// The bounds of the box.
const (
	mostLetters = 200
	mostBytes   = 40 << 20
)

// Letter is one that was handed in.
type Letter struct {
	Number int
	At     time.Time
	// To is the envelope's recipient.
	To      string
	Header  mail.Header
	Subject string
	// Text and HTML are the two bodies, Files what is attached.
	Text, HTML string
	Files      []File
}

// File is an attachment.
type File struct {
	Name, Media string
	Content     []byte
}

// Box is a running mail server.
type Box struct {
	// Address is where it listens on loopback.
	Address string
	// Refuse, if set, is asked before a recipient is taken; its error is the server's answer.
	Refuse func(to string) error

	server  *smtp.Server
	mu      sync.Mutex // protects following fields
	letters []Letter
	n, cuts int
	changed chan struct{} // closed with the next letter
}

// Open starts one on loopback.
func Open() (*Box, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("mailbox: %w", err)
	}
	b := &Box{Address: l.Addr().String(), changed: make(chan struct{})}
	b.server = smtp.NewServer(b)
	b.server.Domain = "marrowby.example"
	b.server.MaxMessageBytes = mostBytes
	b.server.ReadTimeout, b.server.WriteTimeout = time.Minute, time.Minute
	b.server.ErrorLog = quiet{}
	go func() { _ = fault.Caught(func() error { return b.server.Serve(l) }) }() // it ends with Close
	return b, nil
}

// quiet hears of lines that were cut, which tests do.
type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

// Close ends it.
func (b *Box) Close() error { return b.server.Close() }

// Letters are those it holds, the newest first.
func (b *Box) Letters() []Letter {
	b.mu.Lock()
	defer b.mu.Unlock()
	out := make([]Letter, len(b.letters))
	for i, l := range b.letters {
		out[len(out)-1-i] = l
	}
	return out
}

// Changed is closed once another letter has come.
func (b *Box) Changed() <-chan struct{} {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.changed
}

// Cut lets it cut the line in place of confirming the next so many letters, which it keeps.
func (b *Box) Cut(letters int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.cuts = letters
}

// NewSession is for the library: a line was opened.
func (b *Box) NewSession(c *smtp.Conn) (smtp.Session, error) { return &session{box: b, line: c}, nil }

type session struct {
	box  *Box
	line *smtp.Conn
	to   []string
}

func (s *session) Mail(string, *smtp.MailOptions) error { return nil }

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if s.box.Refuse != nil {
		if err := s.box.Refuse(to); err != nil {
			return err
		}
	}
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	l, err := Read(r)
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: err.Error()}
	}
	l.To = strings.Join(s.to, ", ")
	if s.box.keep(l) {
		return s.line.Conn().Close()
	}
	return nil
}

func (s *session) Reset()        { s.to = nil }
func (s *session) Logout() error { return nil }

// keep takes a letter in; cut says that the line is to be cut.
func (b *Box) keep(l Letter) (cut bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.n++
	l.Number, l.At = b.n, time.Now()
	b.letters = append(b.letters, l)
	if len(b.letters) > mostLetters {
		b.letters = b.letters[1:]
	}
	close(b.changed)
	b.changed = make(chan struct{})
	if b.cuts > 0 {
		b.cuts--
		return true
	}
	return false
}

// Read takes a letter apart.
func Read(r io.Reader) (Letter, error) {
	m, err := mail.ReadMessage(io.LimitReader(r, mostBytes))
	if err != nil {
		return Letter{}, fmt.Errorf("the letter cannot be read: %w", err)
	}
	l := Letter{Header: m.Header}
	if l.Subject, err = new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject")); err != nil {
		return l, err
	}
	return l, l.part(m.Header.Get("Content-Type"), m.Header.Get("Content-Transfer-Encoding"), "", m.Body)
}

// part takes a part of a letter in, and the parts within it.
func (l *Letter) part(kind, encoding, disposition string, body io.Reader) error {
	media, params, err := mime.ParseMediaType(kind)
	if err != nil {
		return err
	}
	if strings.HasPrefix(media, "multipart/") {
		parts := multipart.NewReader(body, params["boundary"])
		for {
			p, err := parts.NextRawPart()
			if errors.Is(err, io.EOF) {
				return nil
			}
			if err != nil {
				return err
			}
			h := p.Header
			err = l.part(h.Get("Content-Type"), h.Get("Content-Transfer-Encoding"), h.Get("Content-Disposition"), p)
			if err != nil {
				return err
			}
		}
	}
	switch strings.ToLower(encoding) {
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	}
	content, err := io.ReadAll(body)
	if err != nil {
		return err
	}
	how, named, _ := mime.ParseMediaType(disposition) // bodies have none
	switch {
	case how == "attachment":
		name, err := new(mime.WordDecoder).DecodeHeader(named["filename"])
		if err != nil {
			return err
		}
		l.Files = append(l.Files, File{name, kind, content})
	case media == "text/html":
		l.HTML = string(content)
	default:
		l.Text = string(bytes.TrimSpace(content))
	}
	return nil
}
