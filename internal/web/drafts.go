package web

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// Draft is unsaved work on a view.
type Draft struct {
	ID       string    `json:"id"`
	Place    string    `json:"place" doc:"Address of the bench it is made on"`
	Title    string    `json:"title"`
	Base     int       `json:"base" doc:"Version of the saved view it was made from; 0 for a new view"`
	State    string    `json:"state" doc:"Key of its newest state"`
	Revision int       `json:"revision" doc:"Counts the writes"`
	At       time.Time `json:"at" doc:"When it was last written"`
	Document Content   `json:"document"`
}

type (
	draftsInput struct {
		Place string `query:"place" doc:"Those of one bench only"`
	}
	draftsOutput struct {
		Body struct {
			Drafts []Draft `json:"drafts"`
		}
	}
	putDraftInput struct {
		ID   string `path:"id" pattern:"^[a-z0-9]{8,40}$"`
		Body struct {
			Place    string  `json:"place" maxLength:"200" pattern:"^/(v|new|b)/[A-Za-z0-9_-]+$"`
			Title    string  `json:"title" maxLength:"200"`
			Base     int     `json:"base"`
			State    string  `json:"state" pattern:"^[a-z0-9]{12,40}$" doc:"A fresh key, by which this state can be linked to"`
			Revision int     `json:"revision" doc:"The one that this was made from; 0 for a new draft"`
			Document Content `json:"document"`
		}
	}
	putDraftOutput struct {
		Body struct {
			Revision int `json:"revision"`
		}
	}
	stateOutput struct {
		Body struct {
			Document Content   `json:"document"`
			By       string    `json:"by" doc:"Who made it"`
			At       time.Time `json:"at"`
		}
	}
)

func (s *library) registerDrafts(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "drafts", Method: http.MethodGet, Path: "/api/drafts",
		Summary: "One's own unsaved work, the newest first",
	}, s.drafts)
	huma.Register(api, huma.Operation{
		OperationID: "put-draft", Method: http.MethodPut, Path: "/api/drafts/{id}",
		Summary: "Keep unsaved work, and make its state linkable", MaxBodyBytes: maxBody, Errors: []int{409, 422},
	},
		func(ctx context.Context, in *putDraftInput) (*putDraftOutput, error) {
			text, err := stored(in.Body.Document)
			if err != nil {
				return nil, s.failed(ctx, "draft", err)
			}
			b := in.Body
			revision, err := s.Store.PutDraft(ctx, who(ctx).ID, store.Draft{
				ID: in.ID, Place: b.Place, Title: b.Title, Base: b.Base, State: b.State, Revision: b.Revision,
				Document: text,
			})
			switch {
			case errors.Is(err, store.ErrStale):
				return nil, huma.Error409Conflict(
					"Another tab has gone on with this draft. Keep yours under an id of its own.",
				)
			case errors.Is(err, store.ErrTaken):
				return nil, huma.Error409Conflict("This key stands for another state already. Make a fresh one.")
			case err != nil:
				return nil, s.failed(ctx, "draft", err)
			}
			out := &putDraftOutput{}
			out.Body.Revision = revision
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "drop-draft", Method: http.MethodDelete, Path: "/api/drafts/{id}",
		Summary: "Forget unsaved work",
	},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{}, error) {
			if err := s.Store.DropDraft(ctx, who(ctx).ID, in.ID); err != nil {
				return nil, s.failed(ctx, "draft", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "keep-state", Method: http.MethodPut, Path: "/api/states/{key}/lasting",
		Summary: "Keep a state for good, as a link to it was copied", Errors: []int{404},
	},
		func(ctx context.Context, in *viewInput) (*struct{}, error) {
			err := s.Store.KeepState(ctx, in.Key)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("This state is not there yet, or not any more.")
			}
			if err != nil {
				return nil, s.failed(ctx, "state", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "state", Method: http.MethodGet, Path: "/api/states/{key}",
		Summary: "The view that a link to unsaved work leads to", Errors: []int{404},
	}, s.state)
}

func (s *library) drafts(ctx context.Context, in *draftsInput) (*draftsOutput, error) {
	list, err := s.Store.Drafts(ctx, who(ctx).ID, in.Place)
	if err != nil {
		return nil, s.failed(ctx, "drafts", err)
	}
	out := &draftsOutput{}
	out.Body.Drafts = []Draft{}
	for _, d := range list {
		doc, err := contentOf(d.Document)
		if err != nil {
			s.Log.Error("draft", "id", d.ID, "error", err)
			continue // of a version that this program does not read any more
		}
		out.Body.Drafts = append(out.Body.Drafts, Draft{
			ID: d.ID, Place: d.Place, Title: d.Title, Base: d.Base, State: d.State, Revision: d.Revision, At: d.At,
			Document: doc,
		})
	}
	return out, nil
}

func (s *library) state(ctx context.Context, in *viewInput) (*stateOutput, error) {
	st, err := s.Store.State(ctx, in.Key)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound(
			"This link leads nowhere. Unsaved work is kept for 90 days, and for good once its link was copied with “Link”. Ask whoever sent it to do that.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "state", err)
	}
	doc, err := contentOf(st.Document)
	if err != nil {
		return nil, s.failed(ctx, "state", err)
	}
	out := &stateOutput{}
	out.Body.Document, out.Body.By, out.Body.At = doc, st.ByName, st.At
	return out, nil
}
