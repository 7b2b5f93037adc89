package web

import (
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// ErrorModel is a problem in words for whoever made the request (RFC 9457).
type ErrorModel struct {
	Title  string        `json:"title,omitempty" doc:"What HTTP calls it"`
	Status int           `json:"status,omitempty" doc:"HTTP status code"`
	Detail string        `json:"detail,omitempty" doc:"What is wrong, and how to mend it"`
	Errors []ErrorDetail `json:"errors,omitempty" doc:"Everything that is wrong, with its place"`
}

// ErrorDetail is one thing that is wrong with what was sent.
type ErrorDetail struct {
	Location string    `json:"location,omitempty" doc:"Its place: body.view.filter.all[1].value"`
	Message  string    `json:"message,omitempty" doc:"What stands there, what is wanted, and how to mend it"`
	Code     code.Code `json:"code,omitempty" doc:"Which fault of a view document it is; docs/errors.md lists them"`
	Value    any       `json:"value,omitempty" doc:"What stands there"`
}

func (e *ErrorModel) Error() string { return e.Detail }

// GetStatus is the HTTP status of the answer.
func (e *ErrorModel) GetStatus() int { return e.Status }

// ContentType is that of problems.
func (e *ErrorModel) ContentType(string) string { return "application/problem+json" }

func init() { huma.NewError, huma.NewErrorWithContext = newProblem, newProblemOf }

func newProblem(status int, detail string, errs ...error) huma.StatusError {
	out := &ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}
	for _, err := range errs {
		var placed *placed
		var d huma.ErrorDetailer
		switch {
		case errors.As(err, &placed):
			out.Errors = append(out.Errors, ErrorDetail(*placed))
		case errors.As(err, &d):
			e := d.ErrorDetail()
			out.Errors = append(out.Errors, ErrorDetail{Location: e.Location, Message: e.Message, Value: e.Value})
		case err != nil:
			out.Errors = append(out.Errors, ErrorDetail{Message: err.Error()})
		}
	}
	return out
}

// placed is a detail on its way to a problem.
type placed ErrorDetail

func (p *placed) Error() string { return p.Message }

// detailsOf are the faults of a document that stands at a place of a request.
func detailsOf(at string, faults view.Faults) []error {
	out := make([]error, len(faults))
	for i, f := range faults {
		where := at
		if f.Path != "" {
			where += "." + f.Path
		}
		out[i] = &placed{Location: where, Message: f.Message, Code: f.Code}
	}
	return out
}
