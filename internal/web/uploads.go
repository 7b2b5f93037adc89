package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"path"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/records/files"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
)

// intake takes files in, and keeps the record sets that they become.
type intake struct{ service }

// Upload is a file on its way in.
type Upload struct {
	ID       string    `json:"id"`
	File     string    `json:"file"`
	Size     int64     `json:"size" doc:"Bytes"`
	Received int64     `json:"received" doc:"Bytes that are here: the next part begins there"`
	State    string    `json:"state" enum:"arriving,arrived,reading,read"`
	Lost     bool      `json:"lost,omitempty" doc:"The server that read it is gone; let it be read again"`
	Rows     int64     `json:"rows" doc:"Rows read so far"`
	Bytes    int64     `json:"bytes" doc:"Bytes of the file read so far"`
	Failure  string    `json:"failure,omitempty" doc:"Why it could not be read"`
	Touched  time.Time `json:"touched"`
	// Job and Outcome are there once it is read.
	Job     *app.FileJob     `json:"job,omitempty"`
	Outcome *app.FileOutcome `json:"outcome,omitempty"`
	Rejects []files.Reject   `json:"rejects,omitempty" doc:"The first rows that were kept aside"`
}

type (
	uploadInput struct {
		ID string `path:"id" maxLength:"60"`
		caller
	}
	uploadOutput  struct{ Body Upload }
	uploadsOutput struct {
		Body struct {
			Uploads []Upload `json:"uploads" doc:"The newest first"`
		}
	}
	newUploadInput struct {
		Body struct {
			File string `json:"file" minLength:"1" maxLength:"300" doc:"Name of the file"`
			Size int64  `json:"size" minimum:"1" doc:"Bytes"`
		}
	}
	partInput struct {
		ID      string `path:"id" maxLength:"60"`
		At      int64  `query:"at" minimum:"0" doc:"Where in the file the part begins; a multiple of partBytes"`
		RawBody []byte `contentType:"application/octet-stream"`
	}
	lookInput struct {
		ID   string `path:"id" maxLength:"60"`
		Body struct {
			Settings files.Settings `json:"settings" doc:"What is left out is recognised"`
			Recipe   *files.Recipe  `json:"recipe,omitempty" doc:"What is to become of the columns; guessed, if left out"`
			Into     string         `json:"into,omitempty" maxLength:"200" doc:"The record set that the file is to change: its columns become what they became there"`
		}
	}
	lookOutput struct{ Body FileLook }
	readInput  struct {
		ID   string `path:"id" maxLength:"60"`
		Body app.FileJob
	}
	bringInInput struct {
		ID   string `path:"id" maxLength:"60"`
		Body struct {
			Name    string  `json:"name,omitempty" maxLength:"60" doc:"What a new record set is called"`
			One     string  `json:"one,omitempty" maxLength:"60" doc:"What one of its records is called, in running text"`
			Shares  []Share `json:"shares,omitempty" maxItems:"100" doc:"Who sees it beside its owner"`
			Missing string  `json:"missing,omitempty" enum:"leave,remove,replace" doc:"What becomes of records that the file does not have; replace puts the file in the place of all"`
		}
		caller
	}
	bringInOutput struct {
		Body struct {
			Set string `json:"set" doc:"Key of the record set"`
		}
	}
)

func (s *intake) registerUploads(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "uploads", Method: http.MethodGet, Path: "/api/uploads", Summary: "Files of one's own on their way in",
		Metadata: analysts, Errors: []int{403},
	}, s.uploads)
	huma.Register(api, huma.Operation{
		OperationID: "add-upload", Method: http.MethodPost, Path: "/api/uploads", DefaultStatus: http.StatusCreated,
		Summary: "Begin to send a file, in parts of 4 MiB", Metadata: analysts, Errors: []int{403, 422},
	}, s.addUpload)
	huma.Register(api, huma.Operation{
		OperationID: "upload", Method: http.MethodGet, Path: "/api/uploads/{id}", Summary: "How far a file is",
		Metadata: analysts, Errors: []int{403, 404},
	}, func(ctx context.Context, in *uploadInput) (*uploadOutput, error) { return s.upload(ctx, in.ID) })
	huma.Register(api, huma.Operation{
		OperationID: "drop-upload", Method: http.MethodDelete, Path: "/api/uploads/{id}",
		Summary: "Give a file up that is on its way in", Metadata: analysts, Errors: []int{403, 404},
	}, func(ctx context.Context, in *uploadInput) (*struct{}, error) {
		return nil, s.noUpload(ctx, s.DropFile(ctx, who(ctx), in.ID))
	})
	huma.Register(api, huma.Operation{
		OperationID: "add-part", Method: http.MethodPut, Path: "/api/uploads/{id}/parts",
		Summary: "Send the next part of a file", Metadata: analysts, Errors: []int{403, 404, 409}, MaxBodyBytes: store.PartBytes + 1,
	}, s.addPart)
	huma.Register(api, huma.Operation{
		OperationID: "look-at-file", Method: http.MethodPost, Path: "/api/uploads/{id}/look",
		Summary: "What a file would become, before anything is written", Metadata: analysts, Errors: []int{403, 404, 409, 422},
	}, s.look)
	huma.Register(api, huma.Operation{
		OperationID: "read-file", Method: http.MethodPost, Path: "/api/uploads/{id}/read", DefaultStatus: http.StatusAccepted,
		Summary: "Read a file to the side, and compare it with what is there", Metadata: analysts, Errors: []int{403, 404, 409, 422},
	}, s.read)
	huma.Register(api, huma.Operation{
		OperationID: "stop-reading", Method: http.MethodPost, Path: "/api/uploads/{id}/stop", Summary: "Stop reading a file",
		Metadata: analysts, Errors: []int{403, 404},
	}, func(ctx context.Context, in *uploadInput) (*struct{}, error) {
		return nil, s.noUpload(ctx, s.Store.StopReading(ctx, who(ctx).ID, in.ID))
	})
	huma.Register(api, huma.Operation{
		OperationID: "bring-in", Method: http.MethodPost, Path: "/api/uploads/{id}/bring-in",
		Summary: "Make a file that was read records", Metadata: analysts, Errors: []int{403, 404, 409, 422},
	}, s.bringIn)
}

// noUpload is the problem with a file on its way in.
func (s *intake) noUpload(ctx context.Context, err error) error {
	var file *files.FileError
	var bad *incoming.Error
	var recipe *files.RecipeError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("This file is not on its way in any more. Send it again.")
	case errors.Is(err, app.ErrArriving):
		return huma.Error409Conflict("The file has not arrived as a whole; send the rest first.")
	case errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict("The file is being read already; wait, or stop it.")
	case errors.Is(err, store.ErrStale):
		return huma.Error409Conflict("The records have changed since the file was compared with them, so nothing was written. Read it again.")
	case errors.As(err, &recipe):
		return huma.Error422UnprocessableEntity(recipe.Why, &huma.ErrorDetail{Location: "body.recipe." + recipe.Path, Message: recipe.Why})
	case errors.As(err, &file), errors.As(err, &bad):
		return huma.Error422UnprocessableEntity(sentence(err.Error()))
	}
	return s.failed(ctx, "file", err)
}

func (s *intake) uploads(ctx context.Context, _ *struct{}) (*uploadsOutput, error) {
	all, err := s.Store.Uploads(ctx, who(ctx).ID)
	if err != nil {
		return nil, s.failed(ctx, "files", err)
	}
	out := &uploadsOutput{}
	out.Body.Uploads = []Upload{}
	for _, u := range all {
		one := uploadOf(u)
		one.Job, one.Outcome = nil, nil
		out.Body.Uploads = append(out.Body.Uploads, one)
	}
	return out, nil
}

func uploadOf(u store.Upload) Upload {
	out := Upload{
		ID: u.ID, File: u.File, Size: u.Size, Received: u.Received, State: u.State, Lost: u.Lost, Rows: u.Rows, Bytes: u.Bytes,
		Failure: sentence(u.Failure), Touched: u.TouchedAt,
	}
	// As this program has written them; of an older one, they are left out.
	var job app.FileJob
	if json.Unmarshal(u.Job, &job) == nil {
		out.Job = &job
	}
	var outcome app.FileOutcome
	if json.Unmarshal(u.Outcome, &outcome) == nil {
		out.Outcome = &outcome
	}
	return out
}

func (s *intake) addUpload(ctx context.Context, in *newUploadInput) (*uploadOutput, error) {
	name := path.Base(strings.ReplaceAll(in.Body.File, "\\", "/"))
	name = strings.Map(func(r rune) rune {
		if r < ' ' {
			return -1
		}
		return r
	}, name)
	if in.Body.Size > store.MaxUpload {
		return nil, refusedAt("size", fmt.Sprintf("The file has %d MB; at most %d MB are taken. Part it, or bring it in with gavrik import.",
			in.Body.Size>>20, store.MaxUpload>>20))
	}
	id, err := s.NewFile(ctx, who(ctx), name, in.Body.Size)
	if err != nil {
		return nil, s.failed(ctx, "file", err)
	}
	return s.upload(ctx, id)
}

// firstRejects is how many rows are shown at once that were kept aside.
const firstRejects = 50

func (s *intake) upload(ctx context.Context, id string) (*uploadOutput, error) {
	u, err := s.Store.Upload(ctx, who(ctx).ID, id)
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	out := uploadOf(u)
	if u.State == store.Staged {
		aside, err := s.Store.Asides(ctx, "", id, firstRejects)
		if err != nil {
			return nil, s.failed(ctx, "file", err)
		}
		for _, a := range aside {
			out.Rejects = append(out.Rejects, files.Reject{Line: int(a.Line), Reason: a.Reason, Content: a.Content})
		}
	}
	return &uploadOutput{out}, nil
}

func (s *intake) addPart(ctx context.Context, in *partInput) (*uploadOutput, error) {
	_, err := s.Store.AddPart(ctx, who(ctx).ID, in.ID, in.At, in.RawBody)
	if errors.Is(err, store.ErrPlace) {
		return nil, huma.Error409Conflict("Another part of the file is to come next. Ask how much of it is here, and go on from there.")
	}
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	return s.upload(ctx, in.ID)
}

func (s *intake) read(ctx context.Context, in *readInput) (*uploadOutput, error) {
	u, err := s.Store.Upload(ctx, who(ctx).ID, in.ID)
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if in.Body.Into != "" {
		if _, err := s.mine(ctx, g, in.Body.Into); err != nil {
			return nil, err
		}
	}
	for i, l := range in.Body.Recipe.Links {
		if g.Catalog.Set(l.To).Field(l.Into) == nil {
			return nil, refusedAt(fmt.Sprintf("recipe.links[%d]", i), "The records that this link leads to are not there. Choose others, or take the link away.")
		}
	}
	if err := s.BeginReading(ctx, u, in.Body, g.Calendar); err != nil {
		return nil, s.noUpload(ctx, err)
	}
	return s.upload(ctx, in.ID)
}

func (s *intake) bringIn(ctx context.Context, in *bringInInput) (*bringInOutput, error) {
	p := who(ctx)
	u, err := s.Store.Upload(ctx, p.ID, in.ID)
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	shown := uploadOf(u)
	if u.State != store.Staged || shown.Job == nil || shown.Outcome == nil {
		return nil, huma.Error409Conflict("The file is not read yet. Let it be read first.")
	}
	name := strings.Join(strings.Fields(in.Body.Name), " ")
	into := shown.Job.Into
	switch {
	case into == "" && name == "":
		return nil, refusedAt("name", "Say what the records are called.")
	case shown.Outcome.Rows == 0:
		return nil, huma.Error422UnprocessableEntity("No row of the file can come in. Look at the types of its fields.")
	case into == "":
		for _, set := range g.Catalog.Sets {
			if strings.EqualFold(set.Label, name) {
				return nil, refusedAt("name", fmt.Sprintf("There are records called “%s” already. Call these otherwise, or bring the file in there.", set.Label))
			}
		}
	default:
		if _, err := s.mine(ctx, g, into); err != nil {
			return nil, err
		}
	}
	if err := checkTotals(in.Body.Shares, "records"); err != nil {
		return nil, err
	}
	set, err := s.BringIn(ctx, p, u, app.BringingIn{
		Name: name, One: strings.Join(strings.Fields(in.Body.One), " "), Shares: shares(in.Body.Shares), Missing: in.Body.Missing,
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error409Conflict("The records, or a group that should see them, are not there any more. Look at them again.")
	}
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	s.noted(ctx, in.caller, store.BroughtRecords, fmt.Sprintf("%s: %d rows of %s, %d kept aside", set, shown.Outcome.Rows, u.File, shown.Outcome.Aside))
	out := &bringInOutput{}
	out.Body.Set = set
	return out, nil
}
