package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

// Terms are what is said of a view that comes again and again: when, with which answers, and only if.
type Terms struct {
	Rule    recurrence.Rule
	Answers map[string]view.Given
	Trigger trigger.Trigger
}

// TermsOf reads terms as they are kept; nil for what there is none of.
func TermsOf(rule, answers, only []byte) (t Terms, err error) {
	read := func(text []byte, into any) error {
		if text == nil {
			return nil
		}
		return json.Unmarshal(text, into)
	}
	err = errors.Join(read(rule, &t.Rule), read(answers, &t.Answers), read(only, &t.Trigger))
	return t, err
}

// TermsError says what is wrong with terms of a view; it is said to people.
type TermsError struct{ Why string }

func (e *TermsError) Error() string { return e.Why }

// said is an error of terms as people are told it.
func said(err error) error {
	if err == nil {
		return nil
	}
	return &TermsError{err.Error()}
}

// Asked is a view's document with the answers of the terms.
func (t Terms) Asked(document []byte) (*view.Document, error) {
	doc, err := view.Parse(document)
	if err != nil {
		return nil, err
	}
	return doc, said(doc.AnswerWith(t.Answers))
}

// Check says what is wrong with terms of a view as somebody sees it.
func (t Terms) Check(g *Scope, document []byte) error {
	doc, err := t.Asked(document)
	if err != nil {
		return err
	}
	p, err := g.Check(doc)
	if err != nil {
		return err
	}
	if len(p.MissingParameters) > 0 {
		return p.MissingParameters
	}
	return said(t.Trigger.Check(p))
}

// Found is what a view said when it was looked at whether it meets its trigger.
type Found struct {
	*Answer
	Met bool
	// Words say what was found; Digest tells it from what is found later, where that matters.
	Words, Digest string
}

// Look answers a view as its terms have it, and says whether the trigger is met. before is the digest
// of the last time.
func (t Terms) Look(ctx context.Context, g *Scope, document []byte, before string) (Found, error) {
	doc, err := t.Asked(document)
	if err != nil {
		return Found{}, err
	}
	a, err := g.Answer(ctx, doc)
	if err != nil {
		return Found{}, err
	}
	f := Found{Answer: a}
	if t.Trigger.On == trigger.Changed {
		if f.Digest, err = a.Digest(ctx); err != nil {
			return f, err
		}
	}
	f.Met, f.Words, err = t.Trigger.Met(a.Summary, before, f.Digest)
	return f, said(err)
}

// Digest tells a result from another: by all of its records with their columns, in their order, and
// by all of its totals.
func (a *Answer) Digest(ctx context.Context) (string, error) {
	sum := sha256.New()
	for _, rows := range []export.Rows{export.ByRecord, export.ByGroup} {
		if rows == export.ByRecord && len(a.Plan.Across) > 0 {
			continue // a crosstab has no columns of records
		}
		source := export.Source{Result: a.Result, Document: a.Doc, Set: a.Set}
		err := export.Write(ctx, sum, source, export.Options{Format: "jsonl", Rows: rows, Keys: true})
		if err != nil {
			return "", fmt.Errorf("app: digest: %w", err)
		}
		_, _ = sum.Write([]byte{0}) // a hash takes everything
	}
	return hex.EncodeToString(sum.Sum(nil)[:16]), nil
}

// Coming lists when a rule comes next behind a moment, as many times as asked for at most.
func (w *Workspace) Coming(rule recurrence.Rule, after time.Time, most int) []time.Time {
	out, cal := []time.Time{}, w.Calendar()
	for at := after.UnixMicro(); len(out) < most; {
		next, ok := rule.Next(at, cal)
		if !ok {
			break
		}
		at = next
		out = append(out, time.UnixMicro(next).UTC())
	}
	return out
}

// Next is when a rule comes next from now on; nil for never.
func (w *Workspace) Next(rule recurrence.Rule) *time.Time {
	coming := w.Coming(rule, w.Now(), 1)
	if len(coming) == 0 {
		return nil
	}
	return &coming[0]
}
