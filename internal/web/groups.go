package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// PeopleGroup is people who see the same, as administrators see it.
type PeopleGroup struct {
	ID          int64   `json:"id"`
	Name        string  `json:"name"`
	Description string  `json:"description"`
	Sensitive   bool    `json:"sensitive" doc:"Its members see sensitive fields"`
	Rest        bool    `json:"rest" doc:"It stands for the people who are in no other group"`
	Members     int     `json:"members"`
	Version     int     `json:"version"`
	Limits      []Limit `json:"limits"`
}

// Limit is what a group's members do not see of a record set.
type Limit struct {
	Set    string         `json:"set"`
	Hidden bool           `json:"hidden,omitempty" doc:"None of it is seen"`
	Totals int            `json:"totals,omitempty" minimum:"0" maximum:"1000" doc:"No record is seen; of views that are shared with them, groups of so many records at least with their totals"`
	Fields []string       `json:"fields,omitempty" maxItems:"2000" doc:"Keys of the fields that are kept from them"`
	Rule   *view.Document `json:"rule,omitempty" doc:"They see the records that its filter keeps; its questions are answered by each person's traits"`
	Words  string         `json:"words,omitempty" doc:"In answers: the rule in words"`
	Asks   []string       `json:"asks,omitzero" doc:"In answers: the traits that the rule asks for"`
}

// GroupBody is what is written of a group.
type GroupBody struct {
	Name        string  `json:"name" maxLength:"80"`
	Description string  `json:"description,omitempty" maxLength:"400"`
	Sensitive   bool    `json:"sensitive,omitempty"`
	Limits      []Limit `json:"limits,omitempty" maxItems:"1000"`
}

// SetFields is a record set with all of its fields, for administrators.
type SetFields struct {
	Key    string      `json:"key"`
	Label  string      `json:"label"`
	Fields []FieldMark `json:"fields"`
}

// FieldMark is a field with its mark.
type FieldMark struct {
	Key       string `json:"key"`
	Label     string `json:"label"`
	Sensitive bool   `json:"sensitive"`
}

type (
	groupsOutput struct {
		Body struct {
			Groups []PeopleGroup `json:"groups"`
			Sets   []SetFields   `json:"sets"`
			New    []NewField    `json:"new" doc:"What came after limits were made, and is kept from whoever has any"`
			Lost   []string      `json:"lost" doc:"Limits and marks of what is not there any more"`
		}
	}
	groupOutput struct{ Body PeopleGroup }
	addGroup    struct {
		Body GroupBody
		caller
	}
	changeGroup struct {
		ID   int64 `path:"id"`
		Body struct {
			GroupBody
			Base int `json:"base" doc:"Version that the change was made from"`
		}
		caller
	}
	sensitiveInput struct {
		Set   string `path:"set"`
		Field string `path:"field"`
		Body  struct {
			Sensitive bool `json:"sensitive"`
		}
		caller
	}
)

func (s *rules) registerGroups(api huma.API) {
	op := func(id, method, path, summary string, errs ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: path, Summary: summary, Metadata: administrators,
			MaxBodyBytes: maxBody, Errors: append(errs, 403),
		}
	}
	huma.Register(
		api,
		op(
			"groups", http.MethodGet, "/api/groups",
			"Groups with what their members do not see, and all that could be kept from them",
		),
		s.listGroups,
	)
	add := op("add-group", http.MethodPost, "/api/groups", "Add a group", 422)
	add.DefaultStatus = http.StatusCreated
	huma.Register(api, add, s.addGroup)
	huma.Register(
		api, op("change-group", http.MethodPut, "/api/groups/{id}", "Change a group", 404, 409, 422), s.changeGroup,
	)
	huma.Register(
		api,
		op("remove-group", http.MethodDelete, "/api/groups/{id}", "Remove a group, and the shares with it", 404),
		s.removeGroup,
	)
	huma.Register(
		api,
		op(
			"mark-sensitive", http.MethodPut, "/api/catalog/{set}/fields/{field}/sensitive",
			"Mark a field as sensitive, or no longer", 404,
		),
		s.markSensitive,
	)
}

func (s *rules) listGroups(ctx context.Context, _ *struct{}) (*groupsOutput, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Groups(ctx) // the members are of now
	if err != nil {
		return nil, s.failed(ctx, "groups", err)
	}
	out := &groupsOutput{}
	out.Body.Groups, out.Body.Sets = make([]PeopleGroup, len(list)), []SetFields{}
	out.Body.New, out.Body.Lost = g.newFields(), g.lost()
	for i, one := range list {
		out.Body.Groups[i] = g.group(one)
	}
	for _, set := range g.Catalog.Sets {
		fields := []FieldMark{}
		for _, f := range set.Fields {
			fields = append(fields, FieldMark{
				f.Key, f.Label, slices.Contains(g.Agreed.Sensitive, store.SensitiveField{Set: set.Key, Field: f.Key}),
			})
		}
		out.Body.Sets = append(out.Body.Sets, SetFields{set.Key, set.Label, fields})
	}
	return out, nil
}

// group describes a stored one, with its rules in words.
func (g *requestScope) group(one store.Group) PeopleGroup {
	out := PeopleGroup{
		ID: one.ID, Name: one.Name, Description: one.Description, Sensitive: one.Sensitive, Rest: one.Rest,
		Members: one.Members, Version: one.Version, Limits: []Limit{},
	}
	for _, l := range one.Limits {
		limit := Limit{Set: l.Set, Hidden: l.Hidden, Totals: l.Totals, Fields: l.Fields}
		if len(l.Rule) > 0 {
			limit.Words = ruleWords(g, l.Rule)
			if doc, err := view.Parse(l.Rule); err == nil {
				limit.Rule, limit.Asks = doc, []string{}
				for _, q := range doc.Parameters() {
					limit.Asks = append(limit.Asks, q.Parameter.Name)
				}
			}
		}
		out.Limits = append(out.Limits, limit)
	}
	return out
}

// groupOf checks what is to be written of a group.
func (s *rules) groupOf(ctx context.Context, g *requestScope, d GroupBody) (store.Group, error) {
	out := store.Group{
		Name: strings.TrimSpace(d.Name), Description: strings.TrimSpace(d.Description), Sensitive: d.Sensitive,
	}
	if out.Name == "" {
		return out, huma.Error422UnprocessableEntity("A group needs a name.", &huma.ErrorDetail{
			Location: "body.name", Message: "type a name",
		})
	}
	for i, l := range d.Limits {
		at := fmt.Sprintf("body.limits[%d]", i)
		wrong := func(place, message string) error {
			return huma.Error422UnprocessableEntity(sentence(message), &huma.ErrorDetail{
				Location: at + place, Message: message,
			})
		}
		set := g.Catalog.Set(l.Set)
		if set == nil {
			return out, wrong(".set", fmt.Sprintf("there is no record set %q", l.Set))
		}
		for _, key := range l.Fields {
			if set.Field(key) == nil {
				return out, wrong(".fields", fmt.Sprintf("%s have no field %q", set.Label, key))
			}
		}
		if l.Totals == 1 {
			return out, wrong(".totals", "groups of one record would be told of as they are; choose two at least, five is usual")
		}
		limit := store.Limit{Set: l.Set, Hidden: l.Hidden, Totals: l.Totals, Fields: l.Fields}
		if l.Rule != nil {
			if l.Rule.Records != l.Set || l.Rule.Filter == nil {
				return out, wrong(
					".rule",
					fmt.Sprintf("a rule on %s is a view of %s with a filter; choose another view", set.Many, set.Many),
				)
			}
			rule := l.Rule.Selection()
			if _, err := g.Check(rule); err != nil {
				return out, s.refused(ctx, err)
			}
			text, err := stored(rule)
			if err != nil {
				return out, s.failed(ctx, "group", err)
			}
			limit.Rule = text
		}
		if limit.Hidden || limit.Totals > 0 || len(limit.Fields) > 0 || limit.Rule != nil {
			out.Limits = append(out.Limits, limit)
		}
	}
	return out, nil
}

func (s *rules) addGroup(ctx context.Context, in *addGroup) (*groupOutput, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	d, err := s.groupOf(ctx, g, in.Body)
	if err != nil {
		return nil, err
	}
	id, err := s.Store.AddGroup(ctx, d)
	if err != nil {
		return nil, s.groupFault(ctx, err)
	}
	s.noted(ctx, in.caller, store.Permission, fmt.Sprintf("added the group “%s”: %s", d.Name, g.limitWords(d)))
	return s.oneGroup(ctx, id)
}

func (s *rules) changeGroup(ctx context.Context, in *changeGroup) (*groupOutput, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	d, err := s.groupOf(ctx, g, in.Body.GroupBody)
	if err != nil {
		return nil, err
	}
	d.ID, d.Version = in.ID, in.Body.Base
	if err := s.Store.ChangeGroup(ctx, d); err != nil {
		return nil, s.groupFault(ctx, err)
	}
	s.noted(ctx, in.caller, store.Permission, fmt.Sprintf("changed the group “%s”: %s", d.Name, g.limitWords(d)))
	return s.oneGroup(ctx, in.ID)
}

func (s *rules) removeGroup(ctx context.Context, in *personInput) (*struct{}, error) {
	one, err := s.oneGroup(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if err := s.Store.RemoveGroup(ctx, in.ID); err != nil {
		return nil, s.groupFault(ctx, err)
	}
	s.noted(ctx, in.caller, store.Permission, fmt.Sprintf("removed the group “%s”", one.Body.Name))
	return nil, nil
}

func (s *rules) groupFault(ctx context.Context, err error) error {
	switch {
	case errors.Is(err, store.ErrTaken):
		return huma.Error422UnprocessableEntity("There is a group of that name already.", &huma.ErrorDetail{
			Location: "body.name", Message: "choose another name",
		})
	case errors.Is(err, store.ErrStale):
		return huma.Error409Conflict(
			"Somebody else has changed this group meanwhile, so nothing was written. Look at it again, and choose.",
		)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("There is no such group.")
	}
	return s.failed(ctx, "group", err)
}

func (s *rules) oneGroup(ctx context.Context, id int64) (*groupOutput, error) {
	list, err := s.listGroups(ctx, nil)
	if err != nil {
		return nil, err
	}
	for _, one := range list.Body.Groups {
		if one.ID == id {
			return &groupOutput{one}, nil
		}
	}
	return nil, huma.Error404NotFound("There is no such group.")
}

func (s *rules) markSensitive(ctx context.Context, in *sensitiveInput) (*struct{}, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	set := g.Catalog.Set(in.Set)
	if set == nil || set.Field(in.Field) == nil {
		return nil, huma.Error404NotFound("There is no such field.")
	}
	if err := s.Store.MarkSensitive(ctx, store.SensitiveField{
		Set: in.Set, Field: in.Field,
	}, in.Body.Sensitive); err != nil {
		return nil, s.failed(ctx, "sensitive field", err)
	}
	words := "is sensitive"
	if !in.Body.Sensitive {
		words = "is not sensitive any more"
	}
	s.noted(
		ctx, in.caller, store.Permission, fmt.Sprintf("%s of %s %s", set.Field(in.Field).Label, set.Many, words),
	)
	return nil, nil
}

// limitWords says what a group's members do not see, for the trail.
func (g *requestScope) limitWords(d store.Group) string {
	var words []string
	if d.Sensitive {
		words = append(words, "sees sensitive fields")
	}
	for _, l := range d.Limits {
		set := g.Catalog.Set(l.Set)
		if l.Hidden {
			words = append(words, "no "+set.Many)
			continue
		}
		if l.Totals > 0 {
			words = append(words, fmt.Sprintf("of %s only totals of %d or more", set.Many, l.Totals))
		}
		for _, key := range l.Fields {
			words = append(words, "not "+set.Field(key).Label+" of "+set.Many)
		}
		if l.Rule != nil {
			words = append(words, "only "+catalog.LowerFirst(ruleWords(g, l.Rule)))
		}
	}
	if len(words) == 0 {
		return "no limits"
	}
	return strings.Join(words, "; ")
}

// filterWords says which records a document's filter keeps; what it asks is said as the
// reader's own.
func filterWords(g *requestScope, doc *view.Document) string {
	bare := doc.Selection()
	said := map[string]string{}
	for _, q := range bare.Parameters() {
		said[q.Parameter.Name] = "the reader’s " + q.Parameter.Name
	}
	p, err := g.Check(bare)
	if bare.Answer(said) == nil {
		if asked, errA := g.Check(bare); errA == nil { // not of a number or a date
			p, err = asked, nil
		}
	}
	if err != nil {
		return sentence(strings.Split(err.Error(), "\n")[0])
	}
	text := brief.Text(brief.Write(p, bare, g.Catalog.Set(bare.Records)))
	return strings.TrimSuffix(text, ", showing no columns.") + "."
}
