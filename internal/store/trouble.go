package store

import (
	"context"
	"errors"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Trouble is why the database did not do what was asked of it.
type Trouble int

// The troubles. Defective is a fault of ours: the statement itself was wrong.
const (
	Defective Trouble = iota
	Silent            // it does not answer, or not in time
	ReadOnly          // it takes no writes
	Full              // it has no room, or no connection, left
)

// TroubleOf tells what stands behind an error of a statement. The codes are those of
// PostgreSQL's documentation, appendix A.
func TroubleOf(err error) Trouble {
	var said *pgconn.PgError
	var dial *pgconn.ConnectError
	var network net.Error
	switch {
	case errors.As(err, &said):
		switch {
		case said.Code == "25006":
			return ReadOnly
		case strings.HasPrefix(said.Code, "53"):
			return Full
		case strings.HasPrefix(said.Code, "57"), strings.HasPrefix(said.Code, "08"):
			return Silent
		}
	case errors.As(err, &dial), errors.As(err, &network), errors.Is(
		err, context.DeadlineExceeded,
	), pgconn.SafeToRetry(err), errors.Is(err, net.ErrClosed):
		return Silent
	}
	return Defective
}
