package deliver

import (
	"bytes"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	netmail "net/mail"
	"time"

	"github.com/wneessen/go-mail"
)

// MailServer is where letters are handed in.
type MailServer struct {
	Host           string
	Port           int
	User, Password string
	// From is who letters are from, as "Gavrik <reports@company.example>".
	From string
	// Security is StartTLS, if it is left out.
	Security Security
	// Roots, if set, are who vouches for the server in place of the system's.
	Roots *tls.Config
	// Patience is how long one letter may take; a minute, if it is zero.
	Patience time.Duration
}

// Security says how the line to the mail server is kept.
type Security string

// The ways.
const (
	StartTLS Security = "starttls" // a plain line that is made safe before anything is said
	TLS      Security = "tls"      // a safe line from the start
	Plain    Security = "none"     // nothing is safe: for a server on the same machine
)

// Check says what is wrong with the settings.
func (m MailServer) Check() error {
	if _, err := netmail.ParseAddress(m.From); err != nil {
		return fmt.Errorf("%q is no sender; write it as \"Gavrik <reports@company.example>\"", m.From)
	}
	switch m.Security {
	case "", StartTLS, TLS, Plain:
		return nil
	}
	return fmt.Errorf("%q is no way to keep the line; use starttls, tls or none", m.Security)
}

// addressed is a letter with its envelope.
type addressed struct {
	Written
	// ID is the same however often the letter is sent.
	ID            string
	Name, Address string
	At            time.Time
	// Stop is where its reader asks for no more; empty if she cannot.
	Stop string
	Try  int
}

// SendError is a letter that could not be handed in.
type SendError struct {
	Why string
	// Final says that it is of no use to try again; Maybe that it may have been taken all the same.
	Final, Maybe bool
}

func (e *SendError) Error() string { return e.Why }

// send hands a letter in.
func (m MailServer) send(ctx context.Context, l addressed) error {
	msg, err := m.message(l)
	if err != nil {
		return &SendError{Why: err.Error(), Final: true}
	}
	client, err := m.client()
	if err != nil {
		return &SendError{Why: err.Error()}
	}
	if err := client.DialAndSendWithContext(ctx, msg); err != nil {
		return sendError(err)
	}
	return nil
}

func (m MailServer) client() (*mail.Client, error) {
	patience := m.Patience
	if patience == 0 {
		patience = time.Minute
	}
	options := []mail.Option{mail.WithPort(m.Port), mail.WithTimeout(patience), mail.WithoutNoop()}
	if m.Roots != nil {
		options = append(options, mail.WithTLSConfig(m.Roots))
	}
	switch m.Security {
	case TLS:
		options = append(options, mail.WithSSL())
	case Plain:
		options = append(options, mail.WithTLSPolicy(mail.NoTLS))
	default:
		options = append(options, mail.WithTLSPolicy(mail.TLSMandatory))
	}
	if m.User != "" {
		options = append(
			options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(m.User), mail.WithPassword(m.Password),
		)
	}
	return mail.NewClient(m.Host, options...)
}

func (m MailServer) message(l addressed) (*mail.Msg, error) {
	msg := mail.NewMsg()
	if err := msg.From(m.From); err != nil {
		return nil, fmt.Errorf("the sender %q cannot be used: %w", m.From, err)
	}
	if err := msg.AddToFormat(l.Name, l.Address); err != nil {
		return nil, fmt.Errorf("%q is no address that letters can go to", l.Address)
	}
	msg.Subject(l.Subject)
	msg.SetMessageIDWithValue(l.ID)
	msg.SetDateWithValue(l.At)
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: nobody's absence is to answer
	if l.Try > 1 {
		msg.SetGenHeader("Gavrik-Try", fmt.Sprint(l.Try))
	}
	if l.Stop != "" { // RFC 2369, RFC 8058
		msg.SetGenHeader("List-Unsubscribe", "<"+l.Stop+">")
		msg.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click")
	}
	msg.SetBodyString(mail.TypeTextPlain, l.Text)
	msg.AddAlternativeString(mail.TypeTextHTML, l.HTML)
	for _, f := range l.Files {
		err := msg.AttachReader(f.Name, bytes.NewReader(f.Content), mail.WithFileContentType(mail.ContentType(f.Media)))
		if err != nil {
			return nil, err
		}
	}
	return msg, nil
}

// sendError says what a mail server meant. A refusal with a number from 500 on is final; a line that
// was cut once the letter was on it may have been too late to stop it.
func sendError(err error) error {
	out := &SendError{Why: "the mail server did not take it: " + err.Error()}
	var refused *mail.SendError
	if !errors.As(err, &refused) {
		out.Why = "the mail server cannot be reached: " + err.Error()
		return out
	}
	code := refused.ErrorCode()
	out.Final = code >= 500 && code < 600
	out.Maybe = code == 0 && (refused.Reason == mail.ErrSMTPDataClose || refused.Reason == mail.ErrSMTPReset)
	return out
}
