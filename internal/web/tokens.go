package web

import (
	"context"
	"crypto/sha256"
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

	"gavrik/internal/core/brief"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

// Token lets a program act for a person, as far as running views goes.
type Token struct {
	ID     int64      `json:"id"`
	Name   string     `json:"name" doc:"What it is for"`
	MadeAt time.Time  `json:"madeAt"`
	UsedAt *time.Time `json:"usedAt,omitempty"`
	EndsAt time.Time  `json:"endsAt"`
}

type (
	tokensOutput struct {
		Body struct {
			Tokens []Token `json:"tokens" doc:"The newest first"`
		}
	}
	addTokenInput struct {
		Body struct {
			Name string `json:"name" minLength:"1" maxLength:"80" doc:"What it is for"`
			Days int    `json:"days" minimum:"1" maximum:"366" doc:"How long it lasts"`
		}
		caller
	}
	addTokenOutput struct {
		Body struct {
			Token string `json:"token" doc:"Shown this once; only its hash is kept"`
		}
	}
	revokeInput struct {
		ID int64 `path:"id"`
		caller
	}
	resultInput struct {
		Key    string `path:"key"`
		Format string `query:"format" enum:"csv,json" default:"csv"`
		People bool   `query:"people" doc:"In csv: guard texts that a spreadsheet would carry out as formulas"`
		Totals bool   `query:"totals" doc:"The group lines and totals of every level in place of the records"`
		caller
		answers map[string]string
	}
)

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

// hashed is what is kept of a token. It is random and long, so that one plain hash is
// enough.
func hashed(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

func (s *server) registerTokens(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "tokens", Method: http.MethodGet, Path: "/api/tokens", Summary: "One's own tokens for programs"},
		func(ctx context.Context, _ *struct{}) (*tokensOutput, error) {
			list, err := s.Store.Tokens(ctx, who(ctx).ID)
			if err != nil {
				return nil, s.failed(ctx, "tokens", err)
			}
			out := &tokensOutput{}
			out.Body.Tokens = make([]Token, len(list))
			for i, t := range list {
				out.Body.Tokens[i] = Token(t)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{OperationID: "add-token", Method: http.MethodPost, Path: "/api/tokens", Summary: "Make a token for a program", DefaultStatus: http.StatusCreated, Errors: []int{422}},
		func(ctx context.Context, in *addTokenInput) (*addTokenOutput, error) {
			out := &addTokenOutput{}
			out.Body.Token = "gavrik_" + secret()
			ends, err := s.Store.AddToken(ctx, who(ctx).ID, in.Body.Name, hashed(out.Body.Token), in.Body.Days)
			if err != nil {
				return nil, s.failed(ctx, "token", err)
			}
			s.noted(ctx, in.caller, store.TokenMade, fmt.Sprintf("made “%s”, until %s", in.Body.Name, ends.Format(time.DateOnly)))
			return out, nil
		})
	huma.Register(api, huma.Operation{OperationID: "revoke-token", Method: http.MethodDelete, Path: "/api/tokens/{id}", Summary: "End a token at once", Errors: []int{404}},
		func(ctx context.Context, in *revokeInput) (*struct{}, error) {
			err := s.Store.Revoke(ctx, who(ctx).ID, in.ID)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("You have no such token.")
			}
			if err != nil {
				return nil, s.failed(ctx, "token", err)
			}
			s.noted(ctx, in.caller, store.TokenMade, fmt.Sprintf("revoked number %d", in.ID))
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "result", Method: http.MethodGet, Path: "/api/views/{key}/result", Summary: "Run a saved view, for a program", Metadata: byToken, Errors: []int{404, 422},
		Description: "Send a personal token as \"Authorization: Bearer …\". Answers to the view's questions are parameters: answer.route=Oxley; several values on lines, a range as from..to, a period as \"last month\".",
	}, s.result)
}

func (s *server) result(ctx context.Context, in *resultInput) (*huma.StreamResponse, error) {
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
	s.noted(ctx, in.caller, store.Exported, fmt.Sprintf("view “%s” as %s, %d records%s", v.Body.Name, in.Format, a.Kept, answersWords(in.answers)))
	return &huma.StreamResponse{Body: func(to huma.Context) {
		kind := "text/csv; charset=utf-8"
		if in.Format == "json" {
			kind = "application/json"
		}
		to.SetHeader("Content-Type", kind)
		to.SetHeader("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": fileName(v.Body.Name) + "." + in.Format}))
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
