package web

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// Event is one line of the audit trail.
type Event struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	What    string    `json:"what"`
	About   string    `json:"about"`
	Address string    `json:"address" doc:"Where the request came from"`
}

type auditInput struct {
	Before int64  `query:"before" doc:"Lines older than the one of this number"`
	What   string `query:"what" doc:"Lines of one kind"`
	Words  string `query:"words" maxLength:"200" doc:"Lines that hold these words"`
}

type auditOutput struct {
	Body struct {
		Events []Event  `json:"events" doc:"The newest first"`
		Kinds  []string `json:"kinds"`
		More   bool     `json:"more" doc:"There are older ones"`
	}
}

// auditPage is how many lines are read at a time.
const auditPage = 100

func (s *rules) registerAudit(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "audit", Method: http.MethodGet, Path: "/api/audit",
		Summary: "Who signed in, shared, exported and changed permissions", Metadata: administrators,
		Errors: []int{403},
	},
		func(ctx context.Context, in *auditInput) (*auditOutput, error) {
			list, err := s.Store.Trail(ctx, in.Before, in.What, in.Words, auditPage+1)
			if err != nil {
				return nil, s.failed(ctx, "audit", err)
			}
			out := &auditOutput{}
			out.Body.Kinds = []string{
				store.SignedIn, store.NotSigned, store.SignedOut, store.Password, store.Shared, store.HandedOver,
				store.Exported, store.Permission, store.TokenMade, store.Standards, store.Describing, store.BroughtRecords,
				store.Refused,
			}
			out.Body.More = len(list) > auditPage
			out.Body.Events = []Event{}
			for _, e := range list[:min(len(list), auditPage)] {
				out.Body.Events = append(out.Body.Events, Event(e))
			}
			return out, nil
		})
}

// noted adds to the trail what the reader did.
func (s service) noted(ctx context.Context, from caller, what, about string) {
	s.note(ctx, store.Event{Who: named(who(ctx)), What: what, About: about, Address: from.address})
}

// note adds a line to the trail. What it tells of has happened, whether or not the
// database takes the line; the log has it in any case.
func (s service) note(ctx context.Context, e store.Event) {
	s.Log.Info("audit", "who", e.Who, "what", e.What, "about", e.About, "address", e.Address)
	if err := s.Store.Note(context.WithoutCancel(ctx), e); err != nil { // within the time of a statement
		s.Log.Error("audit", "error", err)
	}
}

// named tells a person apart from others of her name.
func named(p store.Person) string { return p.Name + " <" + p.Email + ">" }
