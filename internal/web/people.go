package web

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Person is somebody who can sign in, as administrators see her.
type Person struct {
	ID     int64             `json:"id"`
	Email  string            `json:"email"`
	Name   string            `json:"name"`
	Role   store.Role        `json:"role" enum:"reader,analyst,administrator"`
	Groups []GroupName       `json:"groups"`
	Traits map[string]string `json:"traits" doc:"What row rules ask of her, such as her ports"`
	LeftAt *time.Time        `json:"leftAt,omitempty" doc:"Since when she cannot sign in any more"`

	Password bool `json:"password" doc:"She has a password"`
	Second   bool `json:"second" doc:"A code is asked for beside it"`
}

// Sees is what a person sees of a record set.
type Sees struct {
	Label    string   `json:"label"`
	Hidden   bool     `json:"hidden" doc:"None of it"`
	Totals   int      `json:"totals,omitempty" doc:"If not 0, no record, but groups of so many at least with their totals, in views that are shared with her"`
	Seen     int      `json:"seen" doc:"Records she sees; -1 if nobody has counted them"`
	All      int      `json:"all"`
	Withheld []string `json:"withheld" doc:"Fields and links she does not see"`
}

type (
	peopleOutput struct {
		Body struct {
			People []Person `json:"people" doc:"Those who have left last"`
		}
	}
	personOutput struct {
		Body struct {
			Person Person `json:"person"`
			// Fresh is told once and kept nowhere.
			Fresh string `json:"fresh,omitempty" doc:"Her new password, which is shown this once"`
		}
	}
	addPersonInput struct {
		Body struct {
			Email    string     `json:"email" maxLength:"200"`
			Name     string     `json:"name" maxLength:"120"`
			Role     store.Role `json:"role" enum:"reader,analyst,administrator"`
			Groups   []int64    `json:"groups,omitempty" maxItems:"1000"`
			Password bool       `json:"password,omitempty" doc:"Makes her a password; without one she signs in with an identity provider only"`
		}
		caller
	}
	changePersonInput struct {
		ID   int64 `path:"id"`
		Body struct {
			Name   string            `json:"name" maxLength:"120"`
			Role   store.Role        `json:"role" enum:"reader,analyst,administrator"`
			Groups []int64           `json:"groups" maxItems:"1000"`
			Traits map[string]string `json:"traits"`
			Left   bool              `json:"left,omitempty" doc:"She cannot sign in any more"`
		}
		caller
	}
	personInput struct {
		ID int64 `path:"id"`
		caller
	}
	handAllInput struct {
		ID   int64 `path:"id"`
		Body struct {
			To int64 `json:"to"`
		}
		caller
	}
	handAllOutput struct {
		Body struct {
			Views int64 `json:"views" doc:"How many were handed over"`
		}
	}
	seesOutput struct {
		Body struct {
			Sets []Sees `json:"sets"`
		}
	}
)

func (s *rules) registerPeople(api huma.API) {
	op := func(id, method, path, summary string, errs ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: path, Summary: summary, Metadata: administrators,
			Errors: append(errs, 403),
		}
	}
	huma.Register(
		api, op("people", http.MethodGet, "/api/people", "Everybody who can sign in, or could"), s.listPeople,
	)
	add := op("add-person", http.MethodPost, "/api/people", "Add somebody who can sign in", 422)
	add.DefaultStatus = http.StatusCreated
	huma.Register(api, add, s.addPerson)
	huma.Register(
		api,
		op(
			"change-person", http.MethodPut, "/api/people/{id}",
			"Change somebody's name, role, groups and traits, or let her go", 404, 422,
		),
		s.changePerson,
	)
	huma.Register(
		api,
		op(
			"reset-password", http.MethodPost, "/api/people/{id}/password",
			"Make somebody a new password, which signs her out everywhere", 404,
		),
		s.resetPassword,
	)
	huma.Register(
		api,
		op(
			"hand-over-all", http.MethodPost, "/api/people/{id}/views", "Hand all of somebody's views over to another",
			404, 422,
		),
		s.handOverAll,
	)
	huma.Register(api, op("sees", http.MethodGet, "/api/people/{id}/sees", "What somebody sees", 404), s.sees)
}

func (s *rules) listPeople(ctx context.Context, _ *struct{}) (*peopleOutput, error) {
	list, err := s.Store.People(ctx)
	if err != nil {
		return nil, s.failed(ctx, "people", err)
	}
	out := &peopleOutput{}
	out.Body.People = make([]Person, len(list))
	for i, p := range list {
		out.Body.People[i] = personOf(p)
	}
	return out, nil
}

func personOf(p store.Person) Person {
	return Person{
		ID: p.ID, Email: p.Email, Name: p.Name, Role: p.Role, Groups: groupNames(p.Groups), Traits: p.Traits,
		LeftAt: p.LeftAt, Password: p.PasswordHash != "", Second: p.SecondOn,
	}
}

// freshPassword is one that nobody can guess and that can be read out.
func freshPassword() string {
	text := strings.ToLower(rand.Text())
	return text[:5] + "-" + text[5:10] + "-" + text[10:15]
}

func (s *rules) addPerson(ctx context.Context, in *addPersonInput) (*personOutput, error) {
	out := &personOutput{}
	if in.Body.Password {
		out.Body.Fresh = freshPassword()
	}
	id, err := s.desk.AddChanging(ctx, in.Body.Email, in.Body.Name, out.Body.Fresh, in.Body.Role)
	var not *people.NotTakenError
	if errors.As(err, &not) {
		return nil, huma.Error422UnprocessableEntity(sentence(not.Error()), &huma.ErrorDetail{
			Location: "body." + not.Field, Message: not.Error(),
		})
	}
	if err != nil {
		return nil, s.failed(ctx, "add person", err)
	}
	p, err := s.Store.Person(ctx, id)
	if err == nil && len(in.Body.Groups) > 0 {
		p.Groups = groupsOf(in.Body.Groups)
		if err = s.Store.ChangePerson(ctx, p, false); err == nil {
			p, err = s.Store.Person(ctx, id)
		}
	}
	if err != nil {
		return nil, s.failed(ctx, "add person", err)
	}
	out.Body.Person = personOf(p)
	s.noted(ctx, in.caller, store.Permission, fmt.Sprintf("added %s as %s, %s", named(p), p.Role, inGroups(p)))
	return out, nil
}

func groupsOf(ids []int64) []store.GroupName {
	out := make([]store.GroupName, len(ids))
	for i, id := range ids {
		out[i].ID = id
	}
	return out
}

func inGroups(p store.Person) string {
	words := make([]string, len(p.Groups))
	for i, g := range p.Groups {
		words[i] = g.Name
	}
	return "in " + strings.Join(words, ", ")
}

func (s *rules) changePerson(ctx context.Context, in *changePersonInput) (*personOutput, error) {
	before, err := s.person(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	p := before
	p.Name, p.Role, p.Groups, p.Traits = strings.TrimSpace(in.Body.Name), in.Body.Role, groupsOf(in.Body.Groups), map[string]string{}
	for name, text := range in.Body.Traits {
		if text = strings.TrimSpace(text); text != "" {
			p.Traits[strings.TrimSpace(name)] = text
		}
	}
	if p.Name == "" {
		return nil, huma.Error422UnprocessableEntity("The person needs a name.", &huma.ErrorDetail{
			Location: "body.name", Message: "type a name",
		})
	}
	err = s.Store.ChangePerson(ctx, p, in.Body.Left)
	if errors.Is(err, store.ErrLastAdministrator) {
		return nil, huma.Error422UnprocessableEntity(
			"Nobody would be left to manage people. Make somebody else an administrator first.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "change person", err)
	}
	after, err := s.person(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if words := changed(before, after); words != "" {
		s.noted(ctx, in.caller, store.Permission, words)
	}
	out := &personOutput{}
	out.Body.Person = personOf(after)
	return out, nil
}

// changed says what became of a person, for the trail.
func changed(before, after store.Person) string {
	var words []string
	say := func(what, was, is string) {
		if was != is {
			words = append(words, fmt.Sprintf("%s: was %s, now %s", what, was, is))
		}
	}
	say("name", before.Name, after.Name)
	say("role", string(before.Role), string(after.Role))
	say("groups", inGroups(before), inGroups(after))
	traits := func(p store.Person) string {
		out := "none"
		for _, name := range slices.Sorted(maps.Keys(p.Traits)) {
			out = strings.TrimPrefix(out, "none") + name + " " + p.Traits[name] + "; "
		}
		return strings.TrimSuffix(out, "; ")
	}
	say("traits", traits(before), traits(after))
	may := func(p store.Person) string {
		if p.LeftAt != nil {
			return "kept out"
		}
		return "may sign in"
	}
	say("signing in", may(before), may(after))
	if len(words) == 0 {
		return ""
	}
	return named(after) + ": " + strings.Join(words, "; ")
}

func (s *rules) person(ctx context.Context, id int64) (store.Person, error) {
	p, err := s.Store.Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return p, huma.Error404NotFound("There is nobody of that number.")
	}
	if err != nil {
		return p, s.failed(ctx, "person", err)
	}
	return p, nil
}

func (s *rules) resetPassword(ctx context.Context, in *personInput) (*personOutput, error) {
	p, err := s.person(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	out := &personOutput{}
	out.Body.Fresh = freshPassword()
	if err := s.desk.SetPassword(ctx, in.ID, out.Body.Fresh); err != nil {
		return nil, s.failed(ctx, "password", err)
	}
	p.PasswordHash = "set"
	out.Body.Person = personOf(p)
	s.noted(ctx, in.caller, store.Password, "made a new one for "+named(p))
	return out, nil
}

func (s *rules) handOverAll(ctx context.Context, in *handAllInput) (*handAllOutput, error) {
	from, err := s.person(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	to, err := s.person(ctx, in.Body.To)
	if err != nil {
		return nil, err
	}
	if to.Role == store.Reader || to.LeftAt != nil {
		return nil, huma.Error422UnprocessableEntity(
			to.Name + " cannot own views. Choose an analyst or an administrator.",
		)
	}
	out := &handAllOutput{}
	if out.Body.Views, err = s.Store.HandOverAll(ctx, from.ID, to.ID); err != nil {
		return nil, s.failed(ctx, "hand over", err)
	}
	s.noted(
		ctx, in.caller, store.HandedOver,
		fmt.Sprintf("all %d views of %s to %s", out.Body.Views, named(from), named(to)),
	)
	return out, nil
}

func (s *rules) sees(ctx context.Context, in *personInput) (*seesOutput, error) {
	p, err := s.person(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	full, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	g, err := s.seenBy(ctx, full, p)
	if err != nil {
		return nil, err
	}
	out := &seesOutput{}
	out.Body.Sets = []Sees{}
	for _, set := range full.Catalog.Sets {
		one := Sees{Label: set.Label, All: rowsOf(full, set.Key), Withheld: []string{}}
		if extent, ok := g.Reader.Extent(set.Key); ok {
			one.Seen, one.Withheld = extent.Records, restrictedIn(g, set.Key)
		} else {
			one.Totals = g.LeastOf(set.Key)
			one.Hidden = one.Totals == 0
		}
		out.Body.Sets = append(out.Body.Sets, one)
	}
	return out, nil
}
