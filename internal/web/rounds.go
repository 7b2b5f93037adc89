package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// RoundTerms are what its owner says of a round.
type RoundTerms struct {
	Rule    recurrence.Rule       `json:"when"`
	Answers map[string]view.Given `json:"answers,omitempty" doc:"To the view's questions, by their names"`
	Trigger trigger.Trigger       `json:"trigger,omitzero" doc:"It is due only if this is met"`
	Each    bool                  `json:"each,omitempty" doc:"Everyone has to look; else the look of one puts it away for all"`
	Seeing  bool                  `json:"seeing,omitempty" doc:"Having seen the view puts it away; else it is put away by hand"`
	People  []int64               `json:"people" maxItems:"200" doc:"Who looks"`
	Groups  []int64               `json:"groups" maxItems:"50" doc:"Groups whose members look, too"`
}

// Round is a view that is to be looked at again and again.
type Round struct {
	Key   string     `json:"key"`
	View  string     `json:"view" doc:"Key of its view"`
	Name  string     `json:"name" doc:"Of its view"`
	Owned bool       `json:"owned" doc:"The reader may change and end it"`
	By    string     `json:"by" doc:"Who made it"`
	Looks bool       `json:"looks" doc:"The reader is one of those who look"`
	Terms RoundTerms `json:"terms"`
	Words string     `json:"words" doc:"When, and only if, in words"`
	Who   string     `json:"who" doc:"Who looks, in words"`

	Due    bool       `json:"due" doc:"It is to be looked at"`
	Stand  string     `json:"stand" doc:"Since when it is due and how often it came, or when it comes next, in words"`
	Since  *time.Time `json:"since,omitempty" doc:"Since when it is due"`
	Times  int        `json:"times,omitempty" doc:"How often it came due since it was last looked at; 99 is 99 or more"`
	Next   *time.Time `json:"next,omitempty" doc:"When it comes due next"`
	Idle   bool       `json:"idle,omitempty" doc:"It would be due, but what it waits for is not so"`
	Found  string     `json:"found,omitempty" doc:"What was found when that was looked at"`
	Wrong  string     `json:"wrong,omitempty" doc:"Why its view cannot be answered"`
	Last   *RoundLook `json:"last,omitempty" doc:"The last look of anybody"`
	Stands bool       `json:"stands" doc:"Its view is there, and the reader may see it"`
}

// RoundLook is one look of a round.
type RoundLook struct {
	By     string     `json:"by"`
	At     time.Time  `json:"at"`
	Due    *time.Time `json:"due,omitempty" doc:"Since when it had been due; left out for a look before it was"`
	Seeing bool       `json:"seeing,omitempty" doc:"By having seen the view"`
	Note   string     `json:"note,omitempty"`
}

type (
	roundsOutput struct {
		Body struct {
			Rounds []Round `json:"rounds" doc:"Those that are due first, the longest due before the others; then by when they come next"`
		}
	}
	roundOutput   struct{ Body Round }
	addRoundInput struct {
		Body struct {
			View string `json:"view" maxLength:"40" doc:"Key of a saved view"`
			RoundTerms
		}
	}
	setRoundInput struct {
		Key  string `path:"key"`
		Body RoundTerms
	}
	ofRound struct {
		Key string `path:"key"`
	}
	roundLookInput struct {
		Key  string `path:"key"`
		Body struct {
			Seeing bool   `json:"seeing,omitempty" doc:"By having seen the view, not by hand"`
			Note   string `json:"note,omitempty" maxLength:"2000" doc:"What the others should know"`
		}
	}
	noteInput struct {
		Key  string `path:"key"`
		Body struct {
			Note string `json:"note" maxLength:"2000"`
		}
	}
	looksOutput struct {
		Body struct {
			Looks []RoundLook `json:"looks" doc:"The newest first"`
		}
	}
)

func (s *recurring) registerRounds(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "rounds", Method: http.MethodGet, Path: "/api/rounds",
		Summary: "Rounds that the reader looks at or has made",
	}, s.rounds)
	huma.Register(api, huma.Operation{
		OperationID: "add-round", Method: http.MethodPost, Path: "/api/rounds", DefaultStatus: http.StatusCreated,
		Summary: "Have a view looked at again and again", Errors: []int{403, 404, 422},
	}, s.addRound)
	huma.Register(api, huma.Operation{
		OperationID: "set-round", Method: http.MethodPut, Path: "/api/rounds/{key}",
		Summary: "Change a round", Errors: []int{403, 404, 422},
	}, s.setRound)
	huma.Register(api, huma.Operation{
		OperationID: "end-round", Method: http.MethodDelete, Path: "/api/rounds/{key}",
		Summary: "End a round; what was noted goes, too", Errors: []int{404},
	},
		func(ctx context.Context, in *ofRound) (*struct{}, error) {
			return nil, s.roundFailed(ctx, s.Store.EndRound(ctx, who(ctx).ID, in.Key))
		})
	huma.Register(api, huma.Operation{
		OperationID: "look-at", Method: http.MethodPost, Path: "/api/rounds/{key}/looks",
		Summary: "Put a round away until it is due again", Errors: []int{404},
	}, s.lookAt)
	huma.Register(api, huma.Operation{
		OperationID: "note-look", Method: http.MethodPut, Path: "/api/rounds/{key}/note",
		Summary: "Say what the others should know of one's last look", Errors: []int{404},
	},
		func(ctx context.Context, in *noteInput) (*struct{}, error) {
			if _, err := s.round(ctx, in.Key); err != nil {
				return nil, err
			}
			note := strings.TrimSpace(in.Body.Note)
			return nil, s.roundFailed(ctx, s.Store.NoteLook(ctx, who(ctx).ID, in.Key, note))
		})
	huma.Register(api, huma.Operation{
		OperationID: "looks", Method: http.MethodGet, Path: "/api/rounds/{key}/looks",
		Summary: "Who looked when, and what was noted", Errors: []int{404},
	}, s.looks)
}

// roundGone is said of a round that is not there, or not the reader's.
const roundGone = "There is no such round, or it is not yours. It may have been ended."

func (s *recurring) roundFailed(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(roundGone)
	}
	return s.failed(ctx, "round", err)
}

func (s *recurring) round(ctx context.Context, key string) (store.Round, error) {
	r, err := s.Store.Round(ctx, who(ctx).ID, key)
	return r, s.roundFailed(ctx, err)
}

func (s *recurring) rounds(ctx context.Context, _ *struct{}) (*roundsOutput, error) {
	list, err := s.Store.Rounds(ctx, who(ctx).ID)
	if err != nil {
		return nil, s.failed(ctx, "rounds", err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &roundsOutput{}
	out.Body.Rounds = []Round{}
	for _, r := range list {
		one, err := s.toldRound(ctx, g, r)
		if err != nil {
			return nil, err
		}
		out.Body.Rounds = append(out.Body.Rounds, one)
	}
	slices.SortStableFunc(out.Body.Rounds, func(a, b Round) int { return a.rank().Compare(b.rank()) })
	return out, nil
}

// rank is what rounds are put into order by: since when they are due or, far behind those, when
// they come next.
func (r Round) rank() time.Time {
	switch {
	case r.Due && r.Since != nil:
		return *r.Since
	case r.Next != nil:
		return r.Next.AddDate(1000, 0, 0)
	}
	return time.Time{}.AddDate(9000, 0, 0)
}

// toldRound is a round as its reader is told of it.
func (s *recurring) toldRound(ctx context.Context, g *requestScope, r store.Round) (Round, error) {
	out := Round{
		Key: r.Key, View: r.View, Name: r.ViewName, By: r.OwnerName, Looks: r.Looks, Stands: r.Sees && !r.Binned,
		Owned: r.OwnerID == who(ctx).ID || who(ctx).Administrator(), Who: whoLooks(r),
	}
	if out.Last = lastLook(r); !out.Stands {
		out.Wrong = "Its view is in the bin, or not shared any more."
	}
	terms, err := app.TermsOf(r.Rule, r.Answers, r.Trigger)
	if err != nil {
		return out, s.failed(ctx, "round", err)
	}
	out.Terms = RoundTerms{
		Rule: terms.Rule, Answers: terms.Answers, Trigger: terms.Trigger, Each: r.Each, Seeing: r.Seeing,
		People: []int64{}, Groups: []int64{},
	}
	for _, p := range r.People {
		out.Terms.People = append(out.Terms.People, p.ID)
	}
	for _, group := range r.Groups {
		out.Terms.Groups = append(out.Terms.Groups, group.ID)
	}
	out.Words = terms.Rule.Words()
	if !out.Stands {
		return out, nil
	}
	if words := triggerWords(g, terms, r.Document); words != "" {
		out.Words += ", " + words
	}
	st, err := s.Standing(ctx, g.Scope, r)
	if err != nil {
		if ctx.Err() != nil {
			return out, s.failed(ctx, "round", err)
		}
		out.Wrong = s.saidOf(ctx, err)
	}
	out.Due, out.Times, out.Idle, out.Found = st.Due && r.Looks, st.Times, st.Idle, st.Found
	now := s.Workspace.Now()
	if !st.Next.IsZero() {
		out.Next, out.Stand = &st.Next, "next "+dayWords(st.Next, now, g.Calendar.Zone)
	}
	if st.Times > 0 {
		out.Since = &st.Since
	}
	if out.Due {
		out.Stand = "since " + dayWords(st.Since, now, g.Calendar.Zone) + timesWords(st.Times)
	}
	return out, nil
}

func timesWords(n int) string {
	switch {
	case n < 2:
		return ""
	case n == 2:
		return ", twice"
	case n >= app.MostTimes:
		return fmt.Sprintf(", %d times or more", n)
	}
	return fmt.Sprintf(", %d times", n)
}

// triggerWords say a trigger over a view, or nothing if the view cannot be read.
func triggerWords(g *requestScope, t app.Terms, document []byte) string {
	doc, err := t.Asked(document)
	if err != nil {
		return ""
	}
	p, err := g.Check(doc)
	if err != nil {
		return ""
	}
	return t.Trigger.Words(p)
}

// saidOf is a problem in one sentence.
func (s service) saidOf(ctx context.Context, err error) string {
	var of *app.TermsError
	if errors.As(err, &of) {
		return sentence(of.Why)
	}
	var p *ErrorModel
	if errors.As(s.refused(ctx, err), &p) {
		return p.Detail
	}
	return internalFault(ctx)
}

func whoLooks(r store.Round) string {
	var names []string
	for _, g := range r.Groups {
		names = append(names, g.Name)
	}
	for _, p := range r.People {
		names = append(names, p.Name)
	}
	if len(names) == 0 {
		return "nobody"
	}
	return manyWords(names)
}

func lastLook(r store.Round) *RoundLook {
	if r.LastAt == nil {
		return nil
	}
	return &RoundLook{By: r.LastName, At: *r.LastAt, Note: r.LastNote}
}

// checkedRound are the terms of a round as they are kept, or the problem with them. Readers make rounds
// for themselves alone.
func (s *recurring) checkedRound(ctx context.Context, key string, t RoundTerms) (store.RoundTerms, error) {
	var out store.RoundTerms
	me := who(ctx)
	if me.Role == store.Reader && (len(t.Groups) > 0 || len(t.People) != 1 || t.People[0] != me.ID) {
		return out, huma.Error403Forbidden("As a reader you make rounds for yourself alone. Ask an analyst to make one for others.")
	}
	if _, err := s.savedView(ctx, key); err != nil {
		return out, err
	}
	terms, _, err := s.asked(ctx, key, &t.Rule, t.Answers, t.Trigger)
	if err != nil {
		return out, err
	}
	looking, err := s.reached(ctx, key, t.People, t.Groups)
	if err != nil {
		return out, err
	}
	if len(looking) == 0 {
		return out, huma.Error422UnprocessableEntity("Nobody you chose may see this view. Share it with them first.")
	}
	out.Each, out.Seeing = t.Each, t.Seeing
	if out.Rule, out.Answers, out.Trigger, err = keptTerms(terms); err != nil {
		return out, s.failed(ctx, "round", err)
	}
	return out, nil
}

func (s *recurring) addRound(ctx context.Context, in *addRoundInput) (*roundOutput, error) {
	t, err := s.checkedRound(ctx, in.Body.View, in.Body.RoundTerms)
	if err != nil {
		return nil, err
	}
	mine, err := s.Store.Rounds(ctx, who(ctx).ID)
	if err != nil {
		return nil, s.roundFailed(ctx, err)
	}
	if err := notMore(len(mine), "rounds for you"); err != nil {
		return nil, err
	}
	key, err := s.Store.AddRound(
		ctx, who(ctx).ID, in.Body.View, t, in.Body.People, in.Body.Groups, s.Workspace.Now(),
	)
	if err != nil {
		return nil, s.roundFailed(ctx, err)
	}
	return s.oneRound(ctx, key)
}

func (s *recurring) oneRound(ctx context.Context, key string) (*roundOutput, error) {
	r, err := s.round(ctx, key)
	if err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	told, err := s.toldRound(ctx, g, r)
	return &roundOutput{told}, err
}

func (s *recurring) setRound(ctx context.Context, in *setRoundInput) (*roundOutput, error) {
	r, err := s.round(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if r.OwnerID != who(ctx).ID && !who(ctx).Administrator() {
		return nil, huma.Error403Forbidden("This round is " + r.OwnerName + "’s, who alone can change it.")
	}
	t, err := s.checkedRound(ctx, r.View, in.Body)
	if err != nil {
		return nil, err
	}
	err = s.Store.SetRound(ctx, who(ctx).ID, in.Key, t, in.Body.People, in.Body.Groups, s.Workspace.Now())
	if err != nil {
		return nil, s.roundFailed(ctx, err)
	}
	return s.oneRound(ctx, in.Key)
}

func (s *recurring) lookAt(ctx context.Context, in *roundLookInput) (*roundOutput, error) {
	r, err := s.round(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if !r.Looks {
		return nil, huma.Error404NotFound(roundGone)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	note := strings.TrimSpace(in.Body.Note)
	if err := s.Looked(ctx, g.Scope, who(ctx).ID, r, in.Body.Seeing, note); err != nil {
		return nil, s.roundFailed(ctx, err)
	}
	return s.oneRound(ctx, in.Key)
}

// looksShown is how many looks are told.
const looksShown = 200

func (s *recurring) looks(ctx context.Context, in *ofRound) (*looksOutput, error) {
	if _, err := s.round(ctx, in.Key); err != nil {
		return nil, err
	}
	list, err := s.Store.LooksAt(ctx, in.Key, looksShown)
	if err != nil {
		return nil, s.failed(ctx, "round", err)
	}
	out := &looksOutput{}
	out.Body.Looks = make([]RoundLook, len(list))
	for i, l := range list {
		out.Body.Looks[i] = RoundLook{By: l.Person.Name, At: l.At, Due: l.DueAt, Seeing: l.Seeing, Note: l.Note}
	}
	return out, nil
}
