package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// View is a saved view.
type View struct {
	Key         string      `json:"key"`
	Version     int         `json:"version"`
	Name        string      `json:"name"`
	Description string      `json:"description"`
	Kind        store.Kind  `json:"kind" enum:"view,board" doc:"A view, or a board of views"`
	Document    Content     `json:"document"`
	Owner       string      `json:"owner"`
	Editable    bool        `json:"editable" doc:"The reader may save over it"`
	Owned       bool        `json:"owned" doc:"The reader owns it: she may share it, hand it over and put it into the bin"`
	Shares      []Share     `json:"shares" doc:"Who sees it beside its owner"`
	Audience    string      `json:"audience" doc:"The same in words"`
	Mine        bool        `json:"mine" doc:"It is one of the reader's favorites"`
	Everyones   bool        `json:"everyones" doc:"It is a favorite for everyone"`
	Groups      []GroupName `json:"groups" doc:"Groups that it is a favorite for; of one's own views all, of others those that the reader is in"`
	SavedAt     time.Time   `json:"savedAt"`
	SavedBy     string      `json:"savedBy"`
	Label       string      `json:"label" doc:"A word that its owner puts views together by"`
	Mark        string      `json:"mark" enum:"mulberry,pine,honey,slate," doc:"Its owner's colour for it"`
	Template    bool        `json:"template" doc:"Opening it makes a copy of one's own"`
	Least       int         `json:"least" doc:"If not 0, the reader sees groups of so many records at least with their totals, and no record: ask with the header Gavrik-Totals"`
	Since       []string    `json:"since" doc:"Definitions it uses that have changed since it was saved, in words"`
}

// ViewSummary is a saved view as lists show it.
type ViewSummary struct {
	Key       string     `json:"key"`
	Name      string     `json:"name"`
	About     string     `json:"about" doc:"What it is for, in its author's words"`
	Records   string     `json:"records" doc:"Label of its record set"`
	Brief     string     `json:"brief" doc:"What the view says it is, or what is wrong with it"`
	Broken    bool       `json:"broken" doc:"It names something that is no longer there"`
	Owner     string     `json:"owner"`
	Owned     bool       `json:"owned" doc:"The reader owns it"`
	Audience  string     `json:"audience" doc:"Who sees it, in words"`
	Away      bool       `json:"away" doc:"A shared favorite that the reader has put away from her desk"`
	Mine      bool       `json:"mine"`
	Everyones bool       `json:"everyones"`
	SavedAt   time.Time  `json:"savedAt"`
	Figure    string     `json:"figure" doc:"Its headline number"`
	FigureOf  string     `json:"figureOf" doc:"What the headline number is"`
	Editable  bool       `json:"editable" doc:"The reader may save over it"`
	Label     string     `json:"label"`
	Mark      string     `json:"mark" enum:"mulberry,pine,honey,slate,"`
	Fields    []string   `json:"fields" doc:"Labels of the fields it uses"`
	Template  bool       `json:"template" doc:"Opening it makes a copy of one's own"`
	Asks      int        `json:"asks" doc:"How many questions it asks"`
	Set       string     `json:"set" doc:"Key of its record set; none for a board"`
	Kind      store.Kind `json:"kind" enum:"view,board"`

	Least  int  `json:"least" doc:"If not 0, the reader sees groups of so many records at least with their totals, and no record"`
	Levels int  `json:"levels" doc:"How many levels of groups it has"`
	Charts bool `json:"charts" doc:"It draws a chart"`

	OpenedAt *time.Time `json:"openedAt,omitempty" doc:"When anybody opened it last"`
	Opened   int        `json:"opened" doc:"How often it was opened in the last 30 days"`
}

// VersionBody is what is saved.
type VersionBody struct {
	Name        string  `json:"name" minLength:"1" maxLength:"120"`
	Description string  `json:"description,omitempty" maxLength:"2000"`
	Document    Content `json:"document"`
}

type (
	viewInput struct {
		Key string `path:"key"`
	}
	openViewInput struct {
		Key  string `path:"key"`
		Open bool   `query:"open" doc:"It is opened to be read, which is counted"`
	}
	viewOutput  struct{ Body View }
	viewsOutput struct {
		Body struct {
			Views []ViewSummary `json:"views"`
		}
	}
	addViewInput struct {
		Body struct {
			VersionBody
			Shares []Share `json:"shares,omitempty" maxItems:"100" doc:"Who sees it beside its owner; nobody, if left out"`
		}
		Request string `header:"Idempotency-Key" maxLength:"100" doc:"A key of this save: sent again, as after a lost answer, it makes no second view"`
		caller
	}
	saveViewInput struct {
		Key  string `path:"key"`
		Body struct {
			VersionBody
			Base int `json:"base" doc:"Version that the change was made from"`
		}
	}
	favoriteInput struct {
		Key  string `path:"key"`
		Body struct {
			Everyone bool  `json:"everyone,omitempty" doc:"For everyone, not for oneself only"`
			Group    int64 `json:"group,omitempty" doc:"For a group, not for oneself only"`
			On       bool  `json:"on"`
		}
	}
)

func (s *library) registerViews(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "views", Method: http.MethodGet, Path: "/api/views",
		Summary: "Saved views that the reader may see",
	}, s.listViews(false))
	huma.Register(api, huma.Operation{
		OperationID: "favorites", Method: http.MethodGet, Path: "/api/favorites",
		Summary: "Favorites with their headline numbers",
	}, s.listViews(true))
	huma.Register(api, huma.Operation{
		OperationID: "view", Method: http.MethodGet, Path: "/api/views/{key}", Summary: "One saved view",
		Errors: []int{404},
	},
		func(ctx context.Context, in *openViewInput) (*viewOutput, error) {
			out, err := s.view(ctx, in.Key)
			if err == nil && in.Open {
				if err := s.Store.NoteOpening(ctx, who(ctx).ID, in.Key); err != nil { // no reason not to show it
					s.Log.Error("opening", "id", requestNumber(ctx), "error", err)
				}
			}
			return out, err
		})
	huma.Register(api, huma.Operation{
		OperationID: "add-view", Metadata: analysts, Method: http.MethodPost, Path: "/api/views",
		Summary: "Save a new view", MaxBodyBytes: maxBody, DefaultStatus: http.StatusCreated,
		Errors: []int{403, 422},
	},
		func(ctx context.Context, in *addViewInput) (*viewOutput, error) {
			d, err := s.newVersion(ctx, in.Body.VersionBody)
			if err != nil {
				return nil, err
			}
			d.Request = in.Request
			if err := checkTotals(in.Body.Shares, d.Kind); err != nil {
				return nil, err
			}
			key, err := s.Store.AddView(ctx, who(ctx).ID, d, shares(in.Body.Shares)...)
			if err != nil {
				return nil, s.notShared(ctx, err)
			}
			out, err := s.view(ctx, key)
			if err != nil { // it stands all the same, and must not be told as if it did not
				return &viewOutput{
					View{
						Key: key, Kind: d.Kind, Version: 1, Name: d.Name, Description: d.Description, Document: in.Body.Document,
						Owner: who(ctx).Name, Editable: true, Owned: true, Shares: []Share{}, Groups: []GroupName{},
						SavedAt: time.Now(), SavedBy: who(ctx).Name, Since: []string{},
					},
				}, nil
			}
			if len(in.Body.Shares) > 0 {
				s.noted(ctx, in.caller, store.Shared, fmt.Sprintf("view “%s” with %s", d.Name, out.Body.Audience))
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "save-view", Metadata: analysts, Method: http.MethodPut, Path: "/api/views/{key}",
		Summary: "Save a new version of a view", MaxBodyBytes: maxBody, Errors: []int{403, 404, 409, 422},
	}, s.saveView)
	huma.Register(api, huma.Operation{
		OperationID: "bin-view", Metadata: analysts, Method: http.MethodDelete, Path: "/api/views/{key}",
		Summary: "Put a view into its owner's bin", Errors: []int{403, 404},
	},
		func(ctx context.Context, in *viewInput) (*struct{}, error) {
			if _, err := s.owned(ctx, in.Key); err != nil {
				return nil, err
			}
			if err := s.Store.BinView(ctx, who(ctx).ID, in.Key); err != nil {
				return nil, s.failed(ctx, "bin view", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "favorite", Method: http.MethodPut, Path: "/api/views/{key}/favorite",
		Summary: "Make a view a favorite, or no longer", Errors: []int{403, 404},
	}, s.favorite)
}

func (s *library) listViews(favorites bool) func(context.Context, *struct{}) (*viewsOutput, error) {
	return func(ctx context.Context, _ *struct{}) (*viewsOutput, error) {
		views, err := s.Store.Views(ctx, who(ctx).ID)
		if err != nil {
			return nil, s.failed(ctx, "views", err)
		}
		out := &viewsOutput{}
		out.Body.Views = []ViewSummary{}
		g, err := s.scope(ctx)
		if err != nil {
			return nil, err
		}
		if favorites { // as arranged, what is new last
			slices.SortStableFunc(views, func(a, b store.View) int {
				return cmp.Compare(uint(a.Place-1), uint(b.Place-1))
			})
		}
		names, err := s.viewNames(ctx, boardsViews(views))
		if err != nil {
			return nil, err
		}
		for _, v := range views {
			if favorites && !v.Mine && !v.Everyones && len(v.Groups) == 0 {
				continue
			}
			out.Body.Views = append(out.Body.Views, s.summary(ctx, g, v, favorites && !v.Away, names))
		}
		return out, nil
	}
}

// summary says what a view or a board is; with figure, a view is run for its headline number. names names the
// views that boards are of.
func (s *library) summary(
	ctx context.Context, g *requestScope, v store.View, figure bool, names func(string) string,
) ViewSummary {
	out := ViewSummary{
		Key: v.Key, Name: v.Name, About: v.Description, Owner: v.OwnerName, Audience: audience(v.Shares),
		Mine: v.Mine, Everyones: v.Everyones, SavedAt: v.SavedAt, Away: v.Away,
		Owned: v.Right == store.Own, Editable: mayEdit(ctx, v), Label: v.Label, Mark: v.Mark, Template: v.Template,
		Fields: []string{}, OpenedAt: v.OpenedAt, Opened: v.Opened,
	}
	if out.Kind = v.Kind; v.Kind == store.BoardKind {
		summarizeBoard(&out, v, names)
		return out
	}
	doc, err := view.Parse(v.Document)
	if err != nil {
		out.Broken, out.Brief = true, sentence(err.Error())
		return out
	}
	out.Records, out.Set, out.Asks = doc.Records, doc.Records, len(doc.Parameters())
	out.Levels, out.Charts = len(doc.Groups), doc.Chart != nil
	within := g.Scope
	if out.Least = g.Least(v, doc.Records); out.Least > 0 {
		if within, err = s.InTotals(ctx, g.Scope, doc.Records); err != nil {
			out.Broken, out.Brief = true, "Its totals cannot be worked out just now."
			s.Log.Error("totals", "id", requestNumber(ctx), "view", v.Key, "error", err)
			return out
		}
	}
	p, err := within.Check(doc)
	if err != nil {
		out.Broken, out.Brief = true, sentence(err.Error())
		return out
	}
	set := within.Catalog.Set(doc.Records)
	out.Records, out.Brief = set.Label, brief.Text(brief.Write(p, doc, set))
	out.Fields = append(out.Fields, p.Labels()...)
	if !figure || len(p.MissingParameters) > 0 || within.Waits(doc, p) { // a list asks no database
		return out
	}
	var a *app.Answer
	if out.Least > 0 {
		a, err = s.Totals(ctx, within, doc, out.Least)
	} else {
		a, err = within.Answer(ctx, doc)
	}
	if err != nil {
		out.Broken, out.Brief = true, sentence(err.Error())
		return out
	}
	out.Figure, out.FigureOf = headline(&answer{a})
	return out
}

// headline is the grand total of the first total shown, or the count.
func headline(a *answer) (figure, of string) {
	f := a.Figure("", "", false)
	if f.Counted {
		return f.Text, f.Label
	}
	return f.Text, fmt.Sprintf("%s, %s", f.Label, a.CountedText())
}

func (s *library) view(ctx context.Context, key string) (*viewOutput, error) {
	v, err := s.seen(ctx, key, "view")
	if err != nil {
		return nil, err
	}
	doc, err := contentOf(v.Document)
	if err != nil {
		return nil, s.failed(ctx, "view", err)
	}
	since, least := []string{}, 0
	if doc.View != nil {
		g, err := s.scope(ctx)
		if err != nil {
			return nil, err
		}
		since, least = g.since(doc.View, v.SavedAt), g.Least(v, doc.View.Records)
	}
	return &viewOutput{View{
		Since: since, Kind: v.Kind, Least: least,
		Key: v.Key, Version: v.Version, Name: v.Name, Description: v.Description, Document: doc,
		Owner:    v.OwnerName,
		Editable: mayEdit(ctx, v), Owned: v.Right == store.Own, Shares: shared(v.Shares),
		Audience: audience(v.Shares), Mine: v.Mine, Everyones: v.Everyones, Groups: groupNames(v.Groups),
		SavedAt: v.SavedAt, SavedBy: v.SavedByName, Label: v.Label, Mark: v.Mark, Template: v.Template,
	}}, nil
}

// newVersion checks what is to be saved: a view that cannot run is not kept.
func (s *library) newVersion(ctx context.Context, in VersionBody) (store.NewVersion, error) {
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return store.NewVersion{}, huma.Error422UnprocessableEntity("A view needs a name.", &huma.ErrorDetail{
			Location: "body.name", Message: "type a name",
		})
	}
	g, err := s.scope(ctx)
	if err != nil {
		return store.NewVersion{}, err
	}
	if err := s.mayStand(ctx, g, in.Document); err != nil {
		return store.NewVersion{}, err
	}
	text, err := stored(in.Document)
	if err != nil {
		return store.NewVersion{}, s.failed(ctx, "save view", err)
	}
	return store.NewVersion{Name: name, Description: strings.TrimSpace(in.Description), Document: text, Kind: in.Document.Kind()}, nil
}

// editable returns a view that the reader may save over, or the problem.
func (s *library) editable(ctx context.Context, key string) (View, error) {
	v, err := s.view(ctx, key)
	if err != nil {
		return View{}, err
	}
	if !v.Body.Editable {
		return View{}, huma.Error403Forbidden(
			"This view belongs to " + v.Body.Owner + ". Save a copy of your own instead.",
		)
	}
	return v.Body, nil
}

// owned returns a view that the reader owns, or the problem.
func (s *library) owned(ctx context.Context, key string) (View, error) {
	v, err := s.view(ctx, key)
	if err != nil {
		return View{}, err
	}
	if !v.Body.Owned {
		return View{}, huma.Error403Forbidden(
			"This view belongs to " + v.Body.Owner + ", who alone can do this. Save a copy of your own instead.",
		)
	}
	return v.Body, nil
}

// mayEdit says whether the reader may save over a view.
func mayEdit(ctx context.Context, v store.View) bool {
	return v.Right >= store.Edit && who(ctx).Role != store.Reader
}

func (s *library) saveView(ctx context.Context, in *saveViewInput) (*viewOutput, error) {
	saved, err := s.editable(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	d, err := s.newVersion(ctx, in.Body.VersionBody)
	if err != nil {
		return nil, err
	}
	if d.Kind != saved.Kind {
		return nil, huma.Error422UnprocessableEntity("A view stays a view, and a board a board. Save this as a new one.")
	}
	err = s.Store.SaveView(ctx, who(ctx).ID, in.Key, in.Body.Base, d)
	if errors.Is(err, store.ErrStale) {
		return nil, huma.Error409Conflict(
			"The view was saved elsewhere while you worked, so nothing was written. Look at both, and choose.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "save view", err)
	}
	out, err := s.view(ctx, in.Key)
	if err != nil { // the save stands all the same, and must not be told as if it did not
		saved.Version, saved.Name, saved.Description, saved.Document = in.Body.Base+1, d.Name, d.Description, in.Body.Document
		saved.SavedAt, saved.SavedBy, saved.Since = time.Now(), who(ctx).Name, []string{}
		return &viewOutput{saved}, nil
	}
	return out, nil
}

func (s *library) favorite(ctx context.Context, in *favoriteInput) (*viewOutput, error) {
	v, err := s.view(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	whose := store.Whose{Everyone: in.Body.Everyone, Group: in.Body.Group}
	if whose != (store.Whose{}) {
		if !v.Body.Owned {
			return nil, huma.Error403Forbidden(
				"Only " + v.Body.Owner + ", who owns this view, can put it on other people's desks.",
			)
		}
		if in.Body.On && !sees(v.Body.Shares, whose) {
			return nil, huma.Error422UnprocessableEntity("Share the view with them first; they could not open it.")
		}
	}
	if err := s.Store.SetFavorite(ctx, who(ctx).ID, in.Key, whose, in.Body.On); err != nil {
		return nil, s.failed(ctx, "favorite", err)
	}
	return s.view(ctx, in.Key)
}
