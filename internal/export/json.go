package export

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/result"
)

// Answer is what was answered to a question of the view, in this run.
type Answer struct {
	Name     string `json:"name"`
	Question string `json:"question"`
	Answer   string `json:"answer"`
}

// WriteJSON writes a sheet as one object: what the view says it is and, apart from what
// is built into it, what was answered this time; the moment of its records, how many
// there are and are kept; the fields that were left out because the reader may not see
// them; what a reader of the figures has to know; the headings, and the rows, one after
// another.
func WriteJSON(to io.Writer, s Sheet, phrases []brief.Phrase, r *result.Summary) error {
	head := struct {
		Brief    string    `json:"brief"`
		Answers  []Answer  `json:"answers,omitzero"`
		Withheld []string  `json:"withheld,omitzero"`
		AsOf     time.Time `json:"asOf"`
		All      int       `json:"all"`
		Kept     int       `json:"kept"`
		Notes    []string  `json:"notes,omitzero"`
		Headings []string  `json:"headings"`
	}{brief.Text(phrases), nil, r.Plan.Restricted, r.AsOf, r.All, r.Kept, r.NotesInWords(), s.Headings}
	for _, p := range phrases {
		if p.Parameter != nil {
			head.Answers = append(head.Answers, Answer{p.Parameter.Name, p.Parameter.Label, p.Text})
		}
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	// put writes a value behind what stands before it, and without its own end.
	put := func(before string, value any, end string) error {
		b.Reset()
		b.WriteString(before)
		if err := enc.Encode(value); err != nil {
			return err
		}
		_, err := to.Write(bytes.TrimSuffix(b.Bytes(), []byte(end)))
		return err
	}
	if err := put("", head, "}\n"); err != nil { // the object stays open for the rows
		return fmt.Errorf("export: %w", err)
	}
	before := `,"rows":[`
	err := s.Each(func(row []string) error {
		err := put(before, row, "\n")
		before = ","
		return err
	})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	end := "]}\n"
	if before != "," {
		end = before + end
	}
	_, err = io.WriteString(to, end)
	return err
}
