package web

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// recurring makes views come by themselves: rounds, and the calendar that tells of them.
type recurring struct{ service }

// Figure is a total of a view that can be looked at before something happens.
type Figure struct {
	Field string  `json:"field" doc:"Path of the field; empty for the count of records"`
	Fn    view.Fn `json:"fn" doc:"Which total of it; empty for the count of records"`
	Label string  `json:"label"`
}

// Asked is a question of a view.
type Asked struct {
	Name     string `json:"name"`
	Label    string `json:"label"`
	Required bool   `json:"required,omitempty" doc:"The view waits for an answer"`
	Answered bool   `json:"answered,omitempty" doc:"Its author proposes an answer"`
}

type (
	recurringOutput struct {
		Body struct {
			Many    string   `json:"many" doc:"What its records are called"`
			Figures []Figure `json:"figures" doc:"The count of records first"`
			Asks    []Asked  `json:"asks" doc:"What it asks of whoever runs it"`
		}
	}
	ruleInput struct {
		Body struct {
			Rule recurrence.Rule `json:"when"`
		}
	}
	ruleOutput struct {
		Body struct {
			Words  string   `json:"words" doc:"The rule: every working day at 7:30"`
			Coming []string `json:"coming" doc:"When it comes next, up to three times, in words"`
			Wrong  string   `json:"wrong" doc:"What is wrong with it; empty for a good one"`
		}
	}
)

func (s *recurring) registerRecurring(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "rule-words", Method: http.MethodPost, Path: "/api/recurrence",
		Summary: "Say a rule in words, and when it comes next",
	}, s.ruleWords)
	huma.Register(api, huma.Operation{
		OperationID: "recurring-choices", Method: http.MethodGet, Path: "/api/views/{key}/recurring",
		Summary: "What can be asked of a view that comes by itself", Errors: []int{404, 422},
	}, s.choices)
}

func (s *recurring) ruleWords(ctx context.Context, in *ruleInput) (*ruleOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &ruleOutput{}
	out.Body.Coming = []string{}
	rule := s.begun(in.Body.Rule)
	if err := rule.Check(g.Calendar); err != nil {
		out.Body.Wrong = sentence(err.Error())
		return out, nil
	}
	now := s.Workspace.Now()
	out.Body.Words = rule.Words()
	for _, at := range s.Workspace.Coming(rule, now, 3) {
		out.Body.Coming = append(out.Body.Coming, dayWords(at, now, g.Calendar.Zone))
	}
	return out, nil
}

// begun is a rule that counts from today on, unless it says otherwise.
func (s *recurring) begun(r recurrence.Rule) recurrence.Rule {
	if r.From == "" {
		cal := s.Workspace.Calendar()
		r.From = cal.Now.In(cal.Zone).Format(time.DateOnly)
	}
	return r
}

// asked are terms of a view, checked as the reader sees it, with the view; or the problem with them. Without
// a rule, the view comes once.
func (s *recurring) asked(
	ctx context.Context, key string, when *recurrence.Rule, answers map[string]view.Given, only trigger.Trigger,
) (t app.Terms, v store.View, err error) {
	t = app.Terms{Answers: answers, Trigger: only}
	if v, err = s.withRecords(ctx, key); err != nil {
		return t, v, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return t, v, err
	}
	if when != nil {
		t.Rule = s.begun(*when)
		if err := t.Rule.Check(g.Calendar); err != nil {
			return t, v, huma.Error422UnprocessableEntity(
				sentence(err.Error()), &huma.ErrorDetail{Location: "body.when", Message: err.Error()},
			)
		}
	}
	if v.Kind == store.BoardKind {
		var found *app.FoundBoard
		if found, err = s.FindSavedBoard(ctx, g.Scope, who(ctx), v); err == nil {
			err = found.Check(t)
		}
	} else {
		err = t.Check(g.Scope, v.Document)
	}
	if err != nil {
		return t, v, huma.Error422UnprocessableEntity(s.saidOf(ctx, err))
	}
	return t, v, nil
}

// keptTerms are terms as they are kept.
func keptTerms(t app.Terms) (rule, answers, only []byte, err error) {
	if t.Answers == nil {
		t.Answers = map[string]view.Given{}
	}
	if rule, err = stored(t.Rule); err == nil {
		answers, err = stored(t.Answers)
	}
	if err == nil {
		only, err = stored(t.Trigger)
	}
	return rule, answers, only, err
}

// reached are those of some people and groups who may see a view. Whoever is named has to be one of them.
func (s *recurring) reached(ctx context.Context, key string, people, groups []int64) ([]store.PersonName, error) {
	out, err := s.Store.MembersOf(ctx, key, people, groups)
	if err != nil {
		return nil, s.failed(ctx, "people", err)
	}
	for _, p := range people {
		if !slices.ContainsFunc(out, func(one store.PersonName) bool { return one.ID == p }) {
			return nil, huma.Error422UnprocessableEntity(
				"Somebody you chose may not see this view, or has left. Share the view with them first.",
			)
		}
	}
	return out, nil
}

// dayWords say a moment by its day and its time, by the clock of the workspace.
func dayWords(at, now time.Time, zone *time.Location) string {
	at, now = at.In(zone), now.In(zone)
	clock := at.Format("15:04")
	midnight := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC) }
	switch days := int(midnight(at).Sub(midnight(now)).Hours() / 24); {
	case days == 0:
		return "today " + clock
	case days == -1:
		return "yesterday " + clock
	case days == 1:
		return "tomorrow " + clock
	case days > -7 && days < 7:
		return at.Format("Monday ") + clock
	case at.Year() == now.Year():
		return at.Format("Mon 2 Jan, ") + clock
	}
	return at.Format("Mon 2 Jan 2006, ") + clock
}

// mostEach is how many rounds, and how many deliveries, one person may have, and how many results are kept
// of one view.
const mostEach = 500

// notMore is the problem with one more of what there are so many already.
func notMore(there int, what string) error {
	if there < mostEach {
		return nil
	}
	return huma.Error422UnprocessableEntity(fmt.Sprintf("There are %d %s already, and no more are taken. End some first.", there, what))
}

// savedView is a view as it is kept, or the problem.
func (s *recurring) savedView(ctx context.Context, key string) (store.View, error) {
	v, err := s.withRecords(ctx, key)
	if err == nil && v.Kind == store.BoardKind {
		err = errIsBoard
	}
	return v, err
}

// boardChoices are what can be asked of a board that comes by itself: its answers.
func (s *recurring) boardChoices(ctx context.Context, g *requestScope, v store.View) (*recurringOutput, error) {
	found, err := s.FindSavedBoard(ctx, g.Scope, who(ctx), v)
	if err != nil {
		return nil, s.failed(ctx, "board", err)
	}
	out := &recurringOutput{}
	out.Body.Asks, out.Body.Figures = []Asked{}, []Figure{}
	for _, q := range found.Questions {
		out.Body.Asks = append(
			out.Body.Asks, Asked{q.Name, q.Condition.Parameter.Label, q.Required, q.Condition.Answered()},
		)
	}
	return out, nil
}

func (s *recurring) choices(ctx context.Context, in *viewInput) (*recurringOutput, error) {
	v, err := s.withRecords(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if v.Kind == store.BoardKind {
		return s.boardChoices(ctx, g, v)
	}
	doc, err := view.Parse(v.Document)
	if err != nil {
		return nil, s.failed(ctx, "view", err)
	}
	p, err := g.Check(doc)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out := &recurringOutput{}
	b := &out.Body
	b.Many, b.Asks, b.Figures = p.Many, []Asked{}, []Figure{{Label: "number of " + p.Many}}
	for _, c := range p.Columns {
		if c.Measure < 0 || p.Measures[c.Measure].Show != "" || !p.Measures[c.Measure].Result().Type.Numeric() {
			continue
		}
		b.Figures = append(b.Figures, Figure{c.Ref.Path, p.Measures[c.Measure].Fn, p.Measures[c.Measure].Label})
	}
	for _, c := range doc.Parameters() {
		b.Asks = append(b.Asks, Asked{c.Parameter.Name, c.Parameter.Label, c.Parameter.Required, c.Answered()})
	}
	return out, nil
}
