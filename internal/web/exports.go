package web

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"gavrik/internal/app"
	"gavrik/internal/core/page"
	"gavrik/internal/core/turn"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

// ExportColumn is one that can be taken or left.
type ExportColumn struct {
	Key     string `json:"key"`
	Heading string `json:"heading"`
}

// Taking is a view on its way out.
type Taking struct {
	Name    string         `json:"name,omitempty" maxLength:"200" doc:"What the file is called, without its end"`
	View    view.Document  `json:"view"`
	Options export.Options `json:"options"`
}

type (
	previewInput  struct{ Body Taking }
	previewOutput struct {
		Body struct {
			Lines    int            `json:"lines" doc:"Lines of the file, without headings"`
			Bytes    int64          `json:"bytes"`
			Exact    bool           `json:"exact" doc:"The size is no estimate"`
			Sheets   int            `json:"sheets" doc:"Sheets that the lines take in a spreadsheet"`
			Levels   []string       `json:"levels" doc:"The levels of groups, the outermost first"`
			Columns  []ExportColumn `json:"columns" doc:"Those that can be taken or left; none, where all are taken"`
			Headings []string       `json:"headings"`
			Numeric  []bool         `json:"numeric" doc:"Which columns hold numbers"`
			First    [][]string     `json:"first" doc:"The first lines"`
			Notes    []string       `json:"notes" doc:"What a reader of the figures has to know, and what is left out"`
		}
	}
	pagesInput struct {
		Body struct {
			Taking
			From  int `json:"from" minimum:"1" doc:"The first page, counted from 1"`
			Count int `json:"count" minimum:"1" maximum:"8" doc:"How many pages"`
		}
	}
	pagesOutput struct {
		Body struct {
			Count  int         `json:"count" doc:"How many pages there are"`
			Lines  int         `json:"lines"`
			Size   float64     `json:"size" doc:"Of the type in points, smaller than set up where columns were made to fit"`
			Levels []string    `json:"levels" doc:"The levels of groups, the outermost first"`
			Beside [][]string  `json:"beside" doc:"The columns on each of the pages that stand beside each other"`
			Pages  []page.Page `json:"pages"`
		}
	}
	exportInput struct {
		Body struct {
			Name    string         `json:"name,omitempty" maxLength:"200" doc:"What the file is called, without its end"`
			View    *view.Document `json:"view,omitempty"`
			Views   []string       `json:"views,omitempty" maxItems:"50" doc:"In place of a view: keys of saved ones, whose files come as one archive"`
			Options export.Options `json:"options"`
		}
	}
	exportOutput struct {
		Body struct {
			ID    string `json:"id"`
			Name  string `json:"name" doc:"Of the file"`
			Lines int    `json:"lines"`
		}
	}
	ofExport struct {
		ID string `path:"id"`
	}
	exportFileInput struct {
		ID string `path:"id"`
		caller
	}
)

// What is told of an export that is being made: how far it is and, once, how it ended.
type (
	exportProgress struct {
		Done  int   `json:"done" doc:"Lines worked through"`
		Bytes int64 `json:"bytes"`
	}
	exportReady struct {
		Bytes int64 `json:"bytes"`
	}
	exportFailed struct {
		Detail string `json:"detail" doc:"What is wrong, and how to mend it"`
		Again  bool   `json:"again,omitempty" doc:"It is nobody's fault: ask for the same file again"`
	}
)

func (s *library) registerExports(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "preview-export", Method: http.MethodPost, Path: "/api/exports/preview",
		Summary: "Look over a file before it is made", MaxBodyBytes: maxBody, Errors: []int{422}, Metadata: ofKept,
	}, s.previewExport)
	huma.Register(api, huma.Operation{
		OperationID: "pages", Method: http.MethodPost, Path: "/api/exports/pages",
		Summary: "Pages as they would print, with what stands where", MaxBodyBytes: maxBody, Errors: []int{422}, Metadata: ofKept,
	}, s.pages)
	huma.Register(api, huma.Operation{
		OperationID: "export", Method: http.MethodPost, Path: "/api/exports", MaxBodyBytes: maxBody,
		Summary: "Begin to make a file of a view, or of several", DefaultStatus: http.StatusCreated,
		Errors: []int{404, 422, 429}, Metadata: ofKept,
	}, s.export)
	sse.Register(api, huma.Operation{
		OperationID: "export-progress", Method: http.MethodGet, Path: "/api/exports/{id}/progress",
		Summary: "How far a file is, as it goes on", Errors: []int{404},
	}, map[string]any{
		"progress": exportProgress{}, "ready": exportReady{}, "failed": exportFailed{},
	}, s.exportProgress)
	huma.Register(api, huma.Operation{
		OperationID: "export-file", Method: http.MethodGet, Path: "/api/exports/{id}/file",
		Summary: "Fetch a file that is ready", Errors: []int{404},
	}, s.exportFile)
	huma.Register(api, huma.Operation{
		OperationID: "drop-export", Method: http.MethodDelete, Path: "/api/exports/{id}",
		Summary: "Stop making a file, or let go of it", Errors: []int{404},
	},
		func(ctx context.Context, in *ofExport) (*struct{}, error) {
			err := s.DropExport(ctx, who(ctx).ID, in.ID)
			return nil, s.exportProblem(ctx, err)
		})
}

func (s *library) pages(ctx context.Context, in *pagesInput) (*pagesOutput, error) {
	_, a, err := s.answered(ctx, &in.Body.View, false)
	if err != nil {
		return nil, err
	}
	o := in.Body.Options
	o.Format = "pdf"
	source, err := s.sourceOf(ctx, a, in.Body.Name, o.Format)
	if err != nil {
		return nil, err
	}
	p, err := export.Paper(ctx, source, o)
	if err != nil {
		return nil, s.notExported(ctx, err)
	}
	out := &pagesOutput{}
	out.Body.Count, out.Body.Lines, out.Body.Size, out.Body.Beside = p.Count, p.Lines(), p.Size(), p.Beside()
	out.Body.Pages, out.Body.Levels = []page.Page{}, levelLabels(a)
	from := min(max(in.Body.From, 1), p.Count)
	err = p.Each(ctx, from, from+in.Body.Count-1, func(one page.Page) error {
		out.Body.Pages = append(out.Body.Pages, one)
		return nil
	})
	if err != nil {
		return nil, s.notExported(ctx, err)
	}
	return out, nil
}

func (s *library) previewExport(ctx context.Context, in *previewInput) (*previewOutput, error) {
	_, a, err := s.answered(ctx, &in.Body.View, false)
	if err != nil {
		return nil, err
	}
	source, err := s.sourceOf(ctx, a, in.Body.Name, in.Body.Options.Format)
	if err != nil {
		return nil, err
	}
	p, err := export.Look(ctx, source, in.Body.Options)
	if err != nil {
		return nil, s.notExported(ctx, err)
	}
	out := &previewOutput{}
	b := &out.Body
	b.Lines, b.Bytes, b.Exact, b.Sheets = p.Lines, p.Bytes, p.Exact, p.Sheets
	b.Headings, b.First = append([]string{}, p.Headings...), append([][]string{}, p.First...)
	b.Numeric = append([]bool{}, p.Numeric...)
	b.Notes, b.Columns, b.Levels = append([]string{}, a.NotesInWords()...), []ExportColumn{}, levelLabels(a)
	for _, c := range p.Columns {
		b.Columns = append(b.Columns, ExportColumn{c.Key, c.Heading})
	}
	return out, nil
}

// levelLabels are what the levels of groups are called, the outermost first.
func levelLabels(a *answer) []string {
	out := make([]string, len(a.Plan.Groups))
	for i, g := range a.Plan.Groups {
		out[i] = g.Label()
	}
	return out
}

// taken is one view of an export.
type taken struct {
	source export.Source
	name   string
	lines  int
	about  string
}

func (s *library) export(ctx context.Context, in *exportInput) (*exportOutput, error) {
	options := in.Body.Options
	format, err := options.Settle()
	if err != nil {
		return nil, s.notExported(ctx, err)
	}
	var all []taken
	if in.Body.View == nil && len(in.Body.Views) == 0 {
		return nil, huma.Error422UnprocessableEntity("Say which view is taken away.")
	}
	if in.Body.View != nil {
		one, err := s.take(ctx, in.Body.View, in.Body.Name, options)
		if err != nil {
			return nil, err
		}
		all = append(all, one)
	}
	for _, key := range in.Body.Views {
		v, err := s.view(ctx, key)
		if err != nil {
			return nil, err
		}
		doc, err := viewDocument(v.Body)
		if err != nil {
			return nil, ofView(v.Body.Name, err)
		}
		one, err := s.take(ctx, doc, v.Body.Name, options)
		if err != nil {
			return nil, ofView(v.Body.Name, err)
		}
		all = append(all, one)
	}
	e := store.Export{Name: export.FileName(all[0].name) + "." + format.Key, Media: format.Media}
	write := func(ctx context.Context, to io.Writer, tell func(int)) error {
		all[0].source.Progress = tell
		return export.Write(ctx, to, all[0].source, options)
	}
	if len(all) > 1 {
		e.Name, e.Media = fmt.Sprintf("%d views.zip", len(all)), "application/zip"
		write = func(ctx context.Context, to io.Writer, tell func(int)) error {
			return archive(ctx, to, all, options, tell)
		}
	}
	for _, one := range all {
		e.Lines += int64(one.lines)
		e.About = append(e.About, one.about)
	}
	return s.beginExport(ctx, e, write)
}

// beginExport begins to make a file for whoever asks.
func (s *library) beginExport(ctx context.Context, e store.Export, write app.Writing) (*exportOutput, error) {
	e.Person = who(ctx).ID
	if e.About == nil {
		e.About = []string{}
	}
	explain := func(err error) string { return s.exportWrong(context.WithoutCancel(ctx), err) }
	id, err := s.Export(ctx, e, write, explain)
	if err != nil {
		return nil, s.exportRefused(ctx, err)
	}
	out := &exportOutput{}
	out.Body.ID, out.Body.Name, out.Body.Lines = id, e.Name, int(e.Lines)
	return out, nil
}

// take answers a view that is to leave, and says now what would be wrong later.
func (s *library) take(
	ctx context.Context, doc *view.Document, name string, o export.Options,
) (taken, error) {
	_, a, err := s.answered(ctx, doc, false)
	if err != nil {
		return taken{}, err
	}
	if name == "" {
		name = a.Set.Label
	}
	out := taken{name: name, about: exportWords(a, name, o, nil)}
	if out.source, err = s.sourceOf(ctx, a, name, o.Format); err != nil {
		return taken{}, err
	}
	if out.lines, err = export.Lines(ctx, out.source, o); err != nil {
		return taken{}, s.notExported(ctx, err)
	}
	return out, nil
}

// ofView says which of several views a problem is of.
func ofView(name string, err error) error {
	var p *ErrorModel
	if errors.As(err, &p) {
		of := *p
		of.Detail = fmt.Sprintf("“%s”: %s", name, p.Detail)
		return &of
	}
	return err
}

// archive writes the files of several views as one.
func archive(ctx context.Context, to io.Writer, all []taken, o export.Options, tell func(int)) error {
	z, before, names := zip.NewWriter(to), 0, map[string]int{}
	for _, one := range all {
		name := export.FileName(one.name)
		if names[name]++; names[name] > 1 {
			name += " (" + strconv.Itoa(names[name]) + ")"
		}
		w, err := z.CreateHeader(&zip.FileHeader{
			Name: name + "." + o.Format, Method: zip.Deflate, Modified: one.source.Result.Summarize().AsOf,
		})
		if err != nil {
			return err
		}
		one.source.Progress = func(lines int) { tell(before + lines) }
		if err := export.Write(ctx, w, one.source, o); err != nil {
			return fmt.Errorf("%s: %w", one.name, err)
		}
		before += one.lines
	}
	return z.Close()
}

// exportGone is said of a file that was dropped, or is another person's; exportLost of one whose server has
// ended.
const (
	exportGone = "This file is not there any more; take it again."
	exportLost = "The server that made this file has ended; take it again."
)

// exportProblem is the problem with finding a file.
func (s *library) exportProblem(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(exportGone)
	}
	return s.failed(ctx, "export", err)
}

// exportRefused is the problem that a file cannot be made.
func (s *library) exportRefused(ctx context.Context, err error) error {
	var refused *app.ExportError
	if errors.As(err, &refused) {
		return huma.Error429TooManyRequests(sentence(refused.Why))
	}
	return s.failed(ctx, "export", err)
}

// progressEvery is how often it is told how far a file is.
const progressEvery = 200 * time.Millisecond

func (s *library) exportProgress(ctx context.Context, in *ofExport, send sse.Sender) {
	for {
		e, err := s.Store.Export(ctx, who(ctx).ID, in.ID)
		told, ended := any(nil), true
		switch {
		case errors.Is(err, store.ErrNotFound):
			told = exportFailed{Detail: exportGone, Again: true}
		case err != nil: // the database does not answer just now
			ended = false
		case e.State == store.ExportReady:
			told = exportReady{e.Bytes}
		case e.State == store.ExportLost:
			told = exportFailed{Detail: exportLost, Again: true}
		case e.State == store.ExportFailed:
			told = exportFailed{Detail: e.Failure}
		default:
			told, ended = exportProgress{int(e.Done), e.Bytes}, false
		}
		if told != nil && send.Data(told) != nil || ended {
			return
		}
		turn.Of(ctx).Rest()
		select {
		case <-ctx.Done():
			return
		case <-time.After(progressEvery):
		}
	}
}

// exportWrong says why a file could not be made.
func (s *library) exportWrong(ctx context.Context, err error) string {
	var of *app.ExportError
	var refused *export.Refused
	var p *ErrorModel
	switch {
	case errors.As(err, &of):
		return sentence(of.Why)
	case errors.As(err, &refused):
		return sentence(refused.Why)
	case errors.As(s.refused(ctx, err), &p):
		return p.Detail
	}
	return internalFault(ctx)
}

func (s *library) exportFile(ctx context.Context, in *exportFileInput) (*huma.StreamResponse, error) {
	e, err := s.Store.Export(ctx, who(ctx).ID, in.ID)
	if err != nil {
		return nil, s.exportProblem(ctx, err)
	}
	if e.State != store.ExportReady {
		return nil, huma.Error404NotFound("This file is not ready.")
	}
	for _, about := range e.About {
		s.noted(ctx, in.caller, store.Exported, about)
	}
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", e.Media)
		to.SetHeader("Content-Length", strconv.FormatInt(e.Bytes, 10))
		to.SetHeader("Content-Disposition", attachmentNamed(e.Name))
		s.stream(ctx, to, func(w io.Writer) error {
			_, err := io.Copy(w, s.ReadExport(ctx, e))
			return err
		})
	}}, nil
}
