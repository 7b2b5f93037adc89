package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
	"gavrik/internal/pgreader"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
)

// What is said of the database.
const (
	databaseSilent   = "The database does not answer. Nothing you typed is lost; try again in a moment."
	databaseReadOnly = "The database takes no changes just now, so nothing was saved. Views can be looked at; try again later, and tell your administrator if it lasts."
	databaseFull     = "The database has no room left, so nothing was saved. Views can be looked at; tell your administrator."
)

// refused turns a fault of the document into a problem that names its places.
func (s service) refused(ctx context.Context, err error) error {
	return s.refusedAt(ctx, "body.view", err)
}

// refusedAt is refused for a document at another place of the request.
func (s service) refusedAt(ctx context.Context, at string, err error) error {
	var faults plan.Faults
	if errors.As(err, &faults) {
		return huma.Error422UnprocessableEntity(sentence(faults[0].Message), detailsOf(at, faults)...)
	}
	var limit *result.LimitError
	if errors.As(err, &limit) {
		return huma.Error422UnprocessableEntity(sentence(limit.Error()))
	}
	var notThere *result.NotThereError
	if errors.As(err, &notThere) {
		return huma.Error404NotFound(sentence(notThere.Error()))
	}
	return s.failed(ctx, "run", err)
}

// failed logs what went wrong inside and answers without it. The answer has the number
// by which the log tells more.
func (s service) failed(ctx context.Context, what string, err error) error {
	var known huma.StatusError
	var busy *scheduler.BusyError
	switch {
	case errors.As(err, &known):
		return known // it was answered for already
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "The request was stopped.")
	case errors.As(err, &busy):
		return tooBusy(busy)
	case errors.Is(err, turn.ErrBusy):
		return huma.Error503ServiceUnavailable(sentence(err.Error()))
	}
	if told := s.awayFailed(ctx, what, err); told != nil {
		return told
	}
	var caught *fault.Error
	if errors.As(err, &caught) {
		s.Log.Error(what, "id", requestNumber(ctx), "error", err, "stack", caught.Stack)
		return huma.Error500InternalServerError(internalFault(ctx))
	}
	s.Log.Error(what, "id", requestNumber(ctx), "error", err)
	switch store.TroubleOf(err) {
	case store.Silent:
		return huma.Error503ServiceUnavailable(databaseSilent)
	case store.ReadOnly:
		return huma.Error503ServiceUnavailable(databaseReadOnly)
	case store.Full:
		return huma.Error503ServiceUnavailable(databaseFull)
	}
	return huma.Error500InternalServerError(internalFault(ctx))
}

// awayFailed says what kept records that stay in their database from being asked; nil for anything else.
func (s service) awayFailed(ctx context.Context, what string, err error) error {
	var refused *pgreader.Refused
	var silent *pgreader.Unreachable
	var failed *pgreader.Failed
	switch {
	case errors.As(err, &refused):
		return huma.Error422UnprocessableEntity(sentence(refused.Error()))
	case errors.As(err, &silent):
		s.Log.Error(what, "id", requestNumber(ctx), "error", errors.Join(err, errors.Unwrap(silent)))
		return retryAfter(huma.Error503ServiceUnavailable(sentence(silent.Error())), 5)
	case errors.As(err, &failed):
		s.Log.Error(what, "id", requestNumber(ctx), "error", err)
		return huma.NewError(http.StatusBadGateway, sentence(failed.Error()))
	}
	return nil
}

// tooBusy says what is under way: of the person's own, or of others.
func tooBusy(busy *scheduler.BusyError) error {
	if busy.Own {
		return retryAfter(huma.Error429TooManyRequests(sentence(busy.Error())), 2)
	}
	return retryAfter(huma.Error503ServiceUnavailable(sentence(busy.Error())), 2)
}

// retryAfter says after how many seconds a request may be sent again (RFC 9110, 10.2.3).
func retryAfter(problem error, seconds int) error {
	return huma.ErrorWithHeaders(problem, http.Header{"Retry-After": {strconv.Itoa(seconds)}})
}

// internalFault is said of what is nobody's fault but the program's.
func internalFault(ctx context.Context) string {
	return fmt.Sprintf(
		"Something went wrong in the server. Nothing you typed is lost; try again. If it comes back, give your administrator this number: %s",
		requestNumber(ctx),
	)
}

// sentence gives a message a capital and a full stop.
func sentence(s string) string { return format.Sentence(s) }
