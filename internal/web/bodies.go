package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/view"
)

// bodies keeps the body of a request until it is answered, so that what is wrong with the view
// documents in it can be said as it is everywhere else; see newProblemOf.
func bodies(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		if ctx.Method() != http.MethodPost && ctx.Method() != http.MethodPut {
			next(ctx)
			return
		}
		most := max(ctx.Operation().MaxBodyBytes, 1<<20)
		_ = ctx.SetReadDeadline(time.Now().Add(bodyTime)) // a recorder of a test has none
		body, err := io.ReadAll(io.LimitReader(ctx.BodyReader(), most+1))
		// The server listens on, to hear if the client goes away: that has no end.
		_ = ctx.SetReadDeadline(time.Time{})
		if err != nil {
			// the caller may have gone
			_ = huma.WriteErr(
				api, ctx, http.StatusRequestTimeout, "The request did not arrive as a whole; send it again.",
			)
			return
		}
		next(&readBody{ctx, body})
	}
}

// bodyTime is how long a request may take to arrive.
const bodyTime = 30 * time.Second

// readBody is a request whose body was read.
type readBody struct {
	humaContext
	body []byte
}

type humaContext = huma.Context // a field called Context would hide its method

func (b *readBody) BodyReader() io.Reader { return bytes.NewReader(b.body) }

// SetReadDeadline has nothing to bound any more.
func (b *readBody) SetReadDeadline(time.Time) error { return nil }

// Unwrap is the context beneath.
func (b *readBody) Unwrap() huma.Context { return b.humaContext }

// newProblemOf is newProblem of a request. Where its form is wrong, and that of a document in
// it, the strict reader says what is wrong with the document: the schema's own words are those
// of its validator.
func newProblemOf(ctx huma.Context, status int, detail string, errs ...error) huma.StatusError {
	if b, ok := ctx.(*readBody); ok &&
		(status == http.StatusBadRequest || status == http.StatusUnprocessableEntity) {
		if wrong := wrongDocuments(b.body); len(wrong) > 0 {
			return newProblem(http.StatusUnprocessableEntity, sentence(wrong[0].Error()), wrong...)
		}
	}
	return newProblem(status, detail, errs...)
}

// wrongDocuments are the faults of the form of all documents in a body; none, if it is no
// object or has none.
func wrongDocuments(body []byte) []error {
	var parts struct {
		View, Document, From, To, Board, Rule json.RawMessage
		Limits                                []struct{ Rule json.RawMessage }
	}
	if json.Unmarshal(body, &parts) != nil {
		return nil
	}
	var out []error
	read := func(at string, raw json.RawMessage) {
		if !isObject(raw) {
			return // a date, or nothing
		}
		_, err := view.Parse(raw)
		var faults view.Faults
		if errors.As(err, &faults) {
			out = append(out, detailsOf(at, faults)...)
		}
	}
	either := func(at string, raw json.RawMessage) {
		if isObject(raw) {
			out = append(out, detailsOf(at, wrongForm(raw))...)
		}
	}
	read("body.view", parts.View)
	either("body.document", parts.Document)
	either("body.from", parts.From)
	either("body.to", parts.To)
	either("body.board", parts.Board)
	read("body.rule", parts.Rule)
	for i, l := range parts.Limits {
		read(fmt.Sprintf("body.limits[%d].rule", i), l.Rule)
	}
	return out
}
