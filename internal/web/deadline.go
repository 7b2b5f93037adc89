package web

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"gavrik/internal/core/turn"
)

// How long a client may take. A silent one must not hold what its answer holds.
const (
	// answerTime is for an answer, the computation included.
	answerTime = 2 * time.Minute
	// pieceTime is for one piece of an answer that is sent as it is made.
	pieceTime = 30 * time.Second
)

// deadline bounds how long an answer may take to be read.
func (s *server) deadline(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if err := writeWithin(w, answerTime); err != nil {
			s.Log.Error("deadline", "id", requestNumber(r.Context()), "error", err)
		}
		next.ServeHTTP(w, r)
	})
}

// writeWithin gives what is written from now on so much time.
func writeWithin(w http.ResponseWriter, long time.Duration) error {
	err := http.NewResponseController(w).SetWriteDeadline(time.Now().Add(long))
	if errors.Is(err, http.ErrNotSupported) {
		return nil // a recorder of a test
	}
	return err
}

// pieceBytes is how much of an answer is made before it is sent.
const pieceBytes = 64 << 10

// stream sends an answer as it is made. While a piece of it is on its way, others
// compute; a client that does not read it in time is dropped, and so is one to which not
// all could be sent: half a file must not look like a whole one.
func (s service) stream(ctx context.Context, to huma.Context, write func(io.Writer) error) {
	_, w := humachi.Unwrap(to)
	sent := &pieces{to: to.BodyWriter(), raw: w, turn: turn.Of(ctx)}
	out := bufio.NewWriterSize(sent, pieceBytes)
	err := write(out)
	if err == nil {
		err = out.Flush()
	}
	if err != nil && !sent.any {
		s.instead(ctx, w, err)
		return
	}
	if err != nil {
		s.Log.Info("an answer was cut off", "id", requestNumber(ctx), "error", err)
		panic(http.ErrAbortHandler)
	}
}

// instead answers with the problem in place of a file of which nothing was sent yet.
func (s service) instead(ctx context.Context, w http.ResponseWriter, err error) {
	var p *ErrorModel
	if !errors.As(s.notExported(ctx, err), &p) {
		panic(http.ErrAbortHandler)
	}
	w.Header().Del("Content-Disposition") // it is no file
	writeProblem(w, p)
}

// pieces writes each piece within its own time, and rests meanwhile.
type pieces struct {
	to   io.Writer
	raw  http.ResponseWriter
	turn turn.Turn
	any  bool // was sent
}

func (p *pieces) Write(piece []byte) (int, error) {
	p.any = true
	p.turn.Rest()
	if err := writeWithin(p.raw, pieceTime); err != nil {
		return 0, err
	}
	return p.to.Write(piece)
}
