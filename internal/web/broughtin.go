package web

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// BroughtIn is a record set that somebody brought in as a file.
type BroughtIn struct {
	Set      string    `json:"set"`
	Owner    string    `json:"owner" doc:"Name of the owner; empty if nobody owns it"`
	Mine     bool      `json:"mine" doc:"The one who asks may change it"`
	Audience string    `json:"audience" doc:"Who sees it, in words"`
	Shares   []Share   `json:"shares"`
	File     string    `json:"file" doc:"The last file"`
	Rows     int64     `json:"rows"`
	Aside    int       `json:"aside" doc:"Rows of it that were kept aside"`
	By       string    `json:"by" doc:"Who brought it in"`
	At       time.Time `json:"at"`
	Keyed    bool      `json:"keyed" doc:"A key tells the records apart: a later file can change them"`
}

type (
	broughtInOutput struct {
		Body struct {
			Sets   []BroughtIn `json:"sets"`
			MayAdd bool        `json:"mayAdd"`
		}
	}
	broughtInInput struct {
		Set string `path:"set" maxLength:"200"`
		caller
	}
	shareSetInput struct {
		Set  string `path:"set" maxLength:"200"`
		Body struct {
			Shares []Share `json:"shares" maxItems:"100"`
		}
		caller
	}
	handSetInput struct {
		Set  string `path:"set" maxLength:"200"`
		Body struct {
			To int64 `json:"to" doc:"Number of the person who is to own it"`
		}
		caller
	}
	removeSetInput struct {
		Set    string `path:"set" maxLength:"200"`
		Anyway bool   `query:"anyway" doc:"Also if views use it"`
		caller
	}
	asideOutput struct {
		Body struct {
			Headings []string `json:"headings"`
			Rows     []Aside  `json:"rows" doc:"In the order of the file, at most 500"`
			Count    int      `json:"count" doc:"All of them"`
		}
	}
	mendInput struct {
		Set  string `path:"set" maxLength:"200"`
		Body struct {
			Rows []Aside `json:"rows" minItems:"1" maxItems:"500"`
			Drop bool    `json:"drop,omitempty" doc:"Throw them away instead"`
		}
		caller
	}
	mendOutput struct {
		Body struct {
			In int `json:"in" doc:"Rows that came in"`
		}
	}
)

// Aside is a row that was kept aside.
type Aside struct {
	ID      int64  `json:"id"`
	Line    int64  `json:"line" doc:"Line of the file"`
	Reason  string `json:"reason,omitempty"`
	Content string `json:"content" maxLength:"20000"`
}

// shownAside is how many rows are shown that were kept aside.
const shownAside = 500

func (s *intake) registerBroughtIn(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "brought-in", Method: http.MethodGet, Path: "/api/brought-in", Summary: "Record sets that came as files",
	}, s.broughtIn)
	huma.Register(api, huma.Operation{
		OperationID: "share-set", Method: http.MethodPut, Path: "/api/brought-in/{set}/shares",
		Summary: "Say who sees a record set that came as a file", Metadata: analysts, Errors: []int{403, 404, 422},
	}, s.shareSet)
	huma.Register(api, huma.Operation{
		OperationID: "hand-over-set", Method: http.MethodPut, Path: "/api/brought-in/{set}/owner",
		Summary: "Hand a record set that came as a file over to somebody else", Metadata: analysts, Errors: []int{403, 404, 422},
	}, s.handOverSet)
	huma.Register(api, huma.Operation{
		OperationID: "remove-set", Method: http.MethodDelete, Path: "/api/brought-in/{set}",
		Summary: "Take a record set away that came as a file", Metadata: analysts, Errors: []int{403, 404, 409},
	}, s.removeSet)
	huma.Register(api, huma.Operation{
		OperationID: "aside", Method: http.MethodGet, Path: "/api/brought-in/{set}/aside",
		Summary: "Rows of a file that were kept aside", Metadata: analysts, Errors: []int{403, 404},
	}, s.aside)
	huma.Register(api, huma.Operation{
		OperationID: "aside-file", Method: http.MethodGet, Path: "/api/brought-in/{set}/aside.csv",
		Summary: "Rows of a file that were kept aside, as a file to be mended and brought in", Metadata: analysts, Errors: []int{403, 404},
	}, s.asideFile)
	huma.Register(api, huma.Operation{
		OperationID: "mend-aside", Method: http.MethodPost, Path: "/api/brought-in/{set}/aside",
		Summary: "Bring rows in that were kept aside and are mended", Metadata: analysts, Errors: []int{403, 404, 409, 422},
		MaxBodyBytes: maxBody,
	}, s.mend)
}

var errNoFile = huma.Error404NotFound("There is no such record set that came as a file.")

// mine finds a record set that the one who asks may change: its owner and administrators do.
func (s *intake) mine(ctx context.Context, g *requestScope, set string) (*store.BroughtIn, error) {
	b := g.Agreed.BroughtInAs(set)
	p := who(ctx)
	switch {
	case b == nil || !app.SeesBroughtIn(p, *b):
		return nil, errNoFile
	case !p.Administrator() && b.Owner != p.ID:
		return nil, huma.Error403Forbidden("Only whoever brought these records in changes them, and administrators. Ask " + orSomebody(b.OwnerName) + ".")
	}
	return b, nil
}

func orSomebody(name string) string {
	if name == "" {
		return "an administrator"
	}
	return name
}

func (s *intake) broughtIn(ctx context.Context, _ *struct{}) (*broughtInOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	p := who(ctx)
	out := &broughtInOutput{}
	out.Body.Sets, out.Body.MayAdd = []BroughtIn{}, p.Administrator() || p.Role == store.Analyst
	for _, b := range g.Agreed.BroughtIn {
		if g.Catalog.Set(b.Set) == nil {
			continue
		}
		var r files.Recipe
		if err := json.Unmarshal(b.Recipe, &r); err != nil {
			return nil, s.failed(ctx, "files", err)
		}
		one := BroughtIn{
			Set: b.Set, Owner: b.OwnerName, Mine: p.Administrator() || b.Owner == p.ID, Audience: audience(b.Shares), File: b.File,
			Rows: b.Rows, By: b.By, At: b.At, Keyed: len(r.By) > 0, Shares: []Share{},
		}
		if one.Mine {
			one.Aside, one.Shares = b.Aside, shared(b.Shares)
		}
		out.Body.Sets = append(out.Body.Sets, one)
	}
	return out, nil
}

// owned finds a record set for a request that changes it.
func (s *intake) owned(ctx context.Context, set string) (*requestScope, *store.BroughtIn, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, nil, err
	}
	b, err := s.mine(ctx, g, set)
	return g, b, err
}

func (s *intake) shareSet(ctx context.Context, in *shareSetInput) (*struct{}, error) {
	_, b, err := s.owned(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	if err := checkTotals(in.Body.Shares, "records"); err != nil {
		return nil, err
	}
	if err := s.Store.ShareBroughtIn(ctx, in.Set, shares(in.Body.Shares)); err != nil {
		return nil, s.notShared(ctx, err)
	}
	s.noted(ctx, in.caller, store.Shared, fmt.Sprintf("records %s: was %s, now %s", in.Set, audience(b.Shares), audience(shares(in.Body.Shares))))
	return nil, nil
}

func (s *intake) handOverSet(ctx context.Context, in *handSetInput) (*struct{}, error) {
	if _, _, err := s.owned(ctx, in.Set); err != nil {
		return nil, err
	}
	err := s.Store.HandOverBroughtIn(ctx, in.Set, in.Body.To)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error422UnprocessableEntity("There is nobody of that number who can own records. Choose an analyst or an administrator.")
	}
	if err != nil {
		return nil, s.failed(ctx, "hand over", err)
	}
	s.noted(ctx, in.caller, store.HandedOver, fmt.Sprintf("records %s to person %d", in.Set, in.Body.To))
	return nil, nil
}

func (s *intake) removeSet(ctx context.Context, in *removeSetInput) (*struct{}, error) {
	g, b, err := s.owned(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	if !in.Anyway {
		if err := s.removing(ctx, g, in.Set); err != nil {
			return nil, err
		}
	}
	err = s.RemoveFile(ctx, in.Set)
	if errors.Is(err, store.ErrNotFound) {
		return nil, errNoFile
	}
	if err != nil {
		return nil, s.failed(ctx, "remove records", err)
	}
	s.noted(ctx, in.caller, store.BroughtRecords, fmt.Sprintf("%s was taken away, with %d rows of %s", in.Set, b.Rows, b.File))
	return nil, nil
}

// removing says which saved views run now and would not any more without a record set.
func (s *intake) removing(ctx context.Context, g *requestScope, set string) error {
	full, err := s.fullScope(ctx)
	if err != nil {
		return err
	}
	without := *full.Catalog
	without.Sets = nil
	for _, one := range full.Catalog.Sets {
		if one.Key == set {
			continue
		}
		left := *one
		left.Links = nil
		for _, l := range one.Links {
			if l.To != set {
				left.Links = append(left.Links, l)
			}
		}
		without.Sets = append(without.Sets, &left)
	}
	return (&rules{service: s.service}).breaking(ctx, full, &app.Tried{Catalog: &without})
}

func (s *intake) aside(ctx context.Context, in *broughtInInput) (*asideOutput, error) {
	_, b, err := s.owned(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	rows, err := s.Store.Asides(ctx, in.Set, "", shownAside)
	if err != nil {
		return nil, s.failed(ctx, "rows kept aside", err)
	}
	out := &asideOutput{}
	out.Body.Headings, out.Body.Rows, out.Body.Count = append([]string{}, b.Headings...), []Aside{}, b.Aside
	for _, r := range rows {
		out.Body.Rows = append(out.Body.Rows, Aside(r))
	}
	return out, nil
}

// asideFile writes the rows as a file with the headings of theirs, and two columns more: the line
// and the reason. Brought in for the same records, those two are left out.
func (s *intake) asideFile(ctx context.Context, in *broughtInInput) (*huma.StreamResponse, error) {
	_, b, err := s.owned(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	var r files.Recipe
	if err := json.Unmarshal(b.Recipe, &r); err != nil {
		return nil, s.failed(ctx, "rows kept aside", err)
	}
	rows, err := s.Store.Asides(ctx, in.Set, "", 0)
	if err != nil {
		return nil, s.failed(ctx, "rows kept aside", err)
	}
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", "text/csv; charset=utf-8")
		to.SetHeader("Content-Disposition", fmt.Sprintf("attachment; filename=%q", in.Set+" kept aside.csv"))
		s.stream(ctx, to, func(out io.Writer) error {
			w := csv.NewWriter(out)
			// Error tells of what could not be written.
			_ = w.Write(append(append([]string{}, b.Headings...), "Line", "Why it was kept aside"))
			for _, one := range rows {
				if ctx.Err() != nil {
					return ctx.Err()
				}
				row, err := files.Again(one.Content, b.Headings, r.Settings)
				cells := row.Cells
				if err != nil || row.Wrong != nil {
					cells = append([]string{one.Content}, make([]string, max(len(b.Headings)-1, 0))...)
				}
				_ = w.Write(append(append([]string{}, cells...), strconv.FormatInt(one.Line, 10), one.Reason))
			}
			w.Flush()
			return w.Error()
		})
	}}, nil
}

func (s *intake) mend(ctx context.Context, in *mendInput) (*mendOutput, error) {
	g, b, err := s.owned(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	out := &mendOutput{}
	if in.Body.Drop {
		var ids []int64
		for _, r := range in.Body.Rows {
			ids = append(ids, r.ID)
		}
		if err := s.DropAsides(ctx, in.Set, ids); err != nil {
			return nil, s.failed(ctx, "rows kept aside", err)
		}
		return out, nil
	}
	rows := make([]store.Aside, len(in.Body.Rows))
	for i, r := range in.Body.Rows {
		rows[i] = store.Aside(r)
	}
	out.Body.In, err = s.Mend(ctx, in.Set, rows, g.Calendar)
	if errors.Is(err, store.ErrStale) || errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error409Conflict("Somebody else has brought one of these rows in, or taken it away, so nothing was written. Look at them again.")
	}
	if err != nil {
		return nil, s.failed(ctx, "rows kept aside", err)
	}
	if out.Body.In > 0 {
		s.noted(ctx, in.caller, store.BroughtRecords, fmt.Sprintf("%s: %d mended rows of %s", in.Set, out.Body.In, b.File))
	}
	return out, nil
}
