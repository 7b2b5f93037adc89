package web

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

type resultInput struct {
	Key    string `path:"key"`
	Format string `query:"format" enum:"csv,json" default:"csv"`
	People bool   `query:"people" doc:"In csv: guard texts that a spreadsheet would carry out as formulas"`
	Totals bool   `query:"totals" doc:"The group lines and totals of every level in place of the records"`
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

func (s *library) registerExports(api huma.API) {
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
	doc := &v.Body.Document
	if err := doc.Answer(in.answers); err != nil {
		return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
	}
	_, a, err := s.answered(ctx, doc, false)
	if err != nil {
		return nil, err
	}
	s.noted(
		ctx, in.caller, store.Exported,
		fmt.Sprintf("view “%s” as %s, %d records%s", v.Body.Name, in.Format, a.Kept, answersWords(in.answers)),
	)
	return &huma.StreamResponse{Body: func(to huma.Context) {
		kind := "text/csv; charset=utf-8"
		if in.Format == "json" {
			kind = "application/json"
		}
		to.SetHeader("Content-Type", kind)
		to.SetHeader(
			"Content-Disposition",
			mime.FormatMediaType("attachment", map[string]string{"filename": fileName(v.Body.Name) + "." + in.Format}),
		)
		if notes := noteHeader(a.NotesInWords()); notes != "" {
			to.SetHeader("Gavrik-Notes", notes)
		}
		sheet := export.Flat(ctx, a.Result)
		if in.Totals {
			sheet = export.Totals(ctx, a.Result)
		}
		s.stream(ctx, to, func(w io.Writer) error {
			if in.Format == "json" {
				return export.WriteJSON(w, sheet, brief.Write(a.Plan, doc, a.Set), a.Summary)
			}
			return export.CSV{Guard: in.People}.Write(w, sheet)
		})
	}}, nil
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

// fileName keeps of a view's name what every system takes in the name of a file.
func fileName(name string) string {
	out := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
			return '-'
		}
		return r
	}, name)
	return strings.Trim(out, " .")
}
