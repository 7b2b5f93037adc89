package pgreader

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"gavrik/internal/core/result"
)

// Unreachable says that the database, or a server on which a part of the records lies, is not reached.
type Unreachable struct {
	// Set are the records in running text. Server and Part are empty for the database itself.
	Set, Server, Part string
	err               error
}

func (e *Unreachable) Error() string {
	if e.Server == "" {
		return fmt.Sprintf("the database where the %s are does not answer; try again in a moment", e.Set)
	}
	return fmt.Sprintf(
		"the server %s, on which the part %s of the records lies, does not answer: %s", e.Server, e.Part, e.err,
	)
}

func (e *Unreachable) Unwrap() error { return e.err }

// Failed says that the database could not carry out a question, and how to mend that.
type Failed struct {
	What, Mend string
	err        error
}

func (e *Failed) Error() string { return e.What + "; " + e.Mend }

func (e *Failed) Unwrap() error { return e.err }

// Codes of PostgreSQL's, and the first letters of classes of them (its documentation, Appendix A).
const (
	queryCanceled   = "57014" // it took too long, or was stopped
	noPrivilege     = "42501"
	namesAndSyntax  = "42" // a table or column that is not there any more, among others
	connectionClass = "08"
	shutdownClass   = "57P"
	resourceClass   = "53"
	dataClass       = "22"
)

// silent says that an error is one of a connection.
func silent(err error) bool {
	var connecting *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &connecting) || errors.As(err, &network) || pgconn.SafeToRetry(err) ||
		errors.Is(err, context.DeadlineExceeded) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
}

// toldOf is an error of a question in words that whoever asked can do something with.
func (d *deciding) toldOf(ctx context.Context, err error) error {
	if ctx.Err() != nil { // the database says so in its own words
		return ctx.Err()
	}
	many := d.plan.Many
	var away *Unreachable
	var said *pgconn.PgError
	switch {
	case errors.As(err, &away):
		return err
	case errors.As(err, &said):
	case silent(err):
		return &Unreachable{Set: many, err: err}
	default:
		return err
	}
	failed := func(mend, what string) error {
		return &Failed{fmt.Sprintf("%s: %s", fmt.Sprintf(what, many), said.Message), mend, err}
	}
	is := func(class string) bool { return strings.HasPrefix(said.Code, class) }
	switch {
	case is(queryCanceled):
		return &result.LimitError{
			Step: fmt.Sprintf("the database would take longer than %s", d.opts.Time),
			Mend: "narrow the filter, or group by less",
		}
	case is(connectionClass) || is(shutdownClass):
		return &Unreachable{Set: many, err: err}
	case is(noPrivilege):
		return failed("grant SELECT on it to the user that Gavrik signs in as",
			"the database does not let the %s be read")
	case is(namesAndSyntax):
		return failed("load the records again", "the tables of the %s are others than when the records were loaded")
	case is(resourceClass):
		return failed("try again in a moment, or narrow the filter",
			"the database has no room to look through the %s")
	case is(dataClass):
		return failed("take out the field that it names", "the database cannot read a value of the %s")
	}
	return failed("try again", "the database could not look through the %s")
}
