package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/export"
	"gavrik/internal/store"
)

type resultInput struct {
	Key       string   `path:"key"`
	Format    string   `query:"format" enum:"csv,json,jsonl,html,parquet,xlsx,pdf" default:"csv"`
	Rows      string   `query:"rows" enum:"records,totals,ledger" doc:"What the lines are: one for each record, one for each group and the grand total, or the ledger as it is laid out; what is usual for the format, if left out"`
	Totals    bool     `query:"totals" doc:"The same as rows=totals"`
	Columns   []string `query:"columns" doc:"Keys of the columns to take; all, if left out"`
	Depth     int      `query:"depth" minimum:"-1" maximum:"99" default:"99" doc:"Of the ledger: how many levels of groups are open, or -1 for all without the records; all, if left out"`
	Separator string   `query:"separator" enum:"comma,semicolon,tab" doc:"In csv: what stands between values"`
	Encoding  string   `query:"encoding" enum:"utf-8,utf-8-marked,windows-1252" doc:"In csv: how characters are kept"`
	Keys      bool     `query:"keys" doc:"Name columns by their keys, not by their headings"`
	People    bool     `query:"people" doc:"In csv: guard texts that a spreadsheet would carry out as formulas"`
	Token     string   `query:"token" doc:"A token that runs this view alone, for programs that can send no header"`
	caller
	answers map[string]string
}

// Resolve reads the answers in the address: answer.route=Oxley.
func (a *resultInput) Resolve(ctx huma.Context) []error {
	a.answers = map[string]string{}
	u := ctx.URL()
	for name, values := range u.Query() {
		if q, ok := strings.CutPrefix(name, "answer."); ok {
			a.answers[q] = strings.Join(values, "\n")
		}
	}
	return a.caller.Resolve(ctx)
}

// options are those in the address.
func (a *resultInput) options() export.Options {
	out := export.Options{
		Format: a.Format, Rows: export.Rows(a.Rows), Columns: a.Columns, Keys: a.Keys, Guard: a.People,
		Separator: export.Separator(a.Separator), Encoding: export.Encoding(a.Encoding),
	}
	if a.Totals {
		out.Rows = export.ByGroup
	}
	if a.Depth != 99 {
		out.Depth = &a.Depth
	}
	return out
}

func (s *library) registerResult(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "result", Method: http.MethodGet, Path: "/api/views/{key}/result",
		Summary: "Run a saved view, for a program", Metadata: byToken, Errors: []int{404, 422},
		Description: "Send a personal token as \"Authorization: Bearer …\". Answers to the view's questions are parameters: answer.route=Oxley; several values on lines, a range as from..to, a period as \"last month\".",
	}, s.result)
}

func (s *library) result(ctx context.Context, in *resultInput) (*huma.StreamResponse, error) {
	v, err := s.view(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	doc, err := viewDocument(v.Body)
	if err != nil {
		return nil, err
	}
	if err := doc.Answer(in.answers); err != nil {
		return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
	}
	options := in.options()
	format, err := options.Settle()
	if err != nil {
		return nil, s.notExported(ctx, err)
	}
	_, a, err := s.answered(ctx, doc, false)
	if err != nil {
		return nil, err
	}
	source, err := s.sourceOf(ctx, a, v.Body.Name, options.Format)
	if err != nil {
		return nil, err
	}
	if _, err := export.Lines(ctx, source, options); err != nil {
		return nil, s.notExported(ctx, err)
	}
	s.noted(ctx, in.caller, store.Exported, exportWords(a, v.Body.Name, options, in.answers))
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", format.Media)
		to.SetHeader("Content-Disposition", attachmentNamed(export.FileName(v.Body.Name)+"."+format.Key))
		if notes := noteHeader(a.NotesInWords()); notes != "" {
			to.SetHeader("Gavrik-Notes", notes)
		}
		s.stream(ctx, to, func(w io.Writer) error { return export.Write(ctx, w, source, options) })
	}}, nil
}

// sourceOf is an answered view on its way out. Only paper has a letterhead.
func (s *library) sourceOf(ctx context.Context, a *answer, title, format string) (export.Source, error) {
	out := export.Source{
		Result: a.Result, Document: a.Doc, Set: a.Set, Title: title, By: who(ctx).Name, Made: time.Now(),
	}
	if format == "pdf" {
		l, err := s.Store.Letterhead(ctx)
		if err != nil {
			return out, s.failed(ctx, "letterhead", err)
		}
		out.Letterhead = (*export.Letterhead)(&l)
	}
	return out, nil
}

// notExported is the problem that an export cannot be.
func (s service) notExported(ctx context.Context, err error) error {
	var refused *export.Refused
	if errors.As(err, &refused) {
		return huma.Error422UnprocessableEntity(
			sentence(refused.Why), &huma.ErrorDetail{Location: "options." + refused.Option, Message: sentence(refused.Why)},
		)
	}
	return s.refused(ctx, err)
}

// exportWords say in the audit trail what leaves: as what, how many, after which answers, which
// fields.
func exportWords(a *answer, name string, o export.Options, answers map[string]string) string {
	var fields []string
	for _, c := range a.Plan.Columns {
		fields = append(fields, c.Ref.Label)
	}
	for _, g := range a.Plan.Groups {
		fields = append(fields, g.Label())
	}
	if len(o.Columns) > 0 {
		fields = o.Columns
	}
	more := ""
	if n := len(fields) - mostFields; n > 0 {
		fields, more = fields[:mostFields], fmt.Sprintf(" and %d more", n)
	}
	return fmt.Sprintf(
		"view “%s” as %s, %d records%s, with %s%s",
		name, o.Format, a.Kept, answersWords(answers), strings.Join(fields, ", "), more,
	)
}

// mostFields is how many fields the trail names of one export.
const mostFields = 40

// attachmentNamed says that a file is to be kept, under which name.
func attachmentNamed(name string) string {
	return mime.FormatMediaType("attachment", map[string]string{"filename": name})
}

// maxNotes bounds what a header says.
const maxNotes = 4000

// noteHeader is notes as a header takes them: a list in JSON, all of it in ASCII.
func noteHeader(notes []string) string {
	for ; len(notes) > 0; notes = notes[:len(notes)-1] {
		text, err := json.Marshal(notes)
		if err != nil {
			return ""
		}
		var out strings.Builder
		for _, unit := range utf16.Encode([]rune(string(text))) {
			if unit < utf8.RuneSelf {
				out.WriteByte(byte(unit))
			} else {
				fmt.Fprintf(&out, `\u%04x`, unit)
			}
		}
		if out.Len() <= maxNotes {
			return out.String()
		}
	}
	return ""
}

func answersWords(answers map[string]string) string {
	if len(answers) == 0 {
		return ""
	}
	q := url.Values{}
	for name, text := range answers {
		q.Set(name, text)
	}
	return ", answering " + q.Encode()
}
