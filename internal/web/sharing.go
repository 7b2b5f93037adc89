package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// Share lets a role, a group or, if neither is named, everyone see a view.
type Share struct {
	Role   store.Role `json:"role,omitempty" enum:"reader,analyst,administrator"`
	Group  int64      `json:"group,omitempty" doc:"Number of the group"`
	Name   string     `json:"name,omitempty" doc:"In answers: what the group is called"`
	Edit   bool       `json:"edit,omitempty" doc:"They may save over it, too; readers never"`
	Totals int        `json:"totals,omitempty" minimum:"0" maximum:"1000" doc:"Of a view: they see groups of so many records at least with their totals, and no record; everything, if left out"`
}

// GroupName is a group, or a person, as lists name it.
type GroupName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type (
	shareInput struct {
		Key  string `path:"key"`
		Body struct {
			Shares []Share `json:"shares" maxItems:"100"`
		}
		caller
	}
	handOverInput struct {
		Key  string `path:"key"`
		Body struct {
			To int64 `json:"to" doc:"Number of the person who is to own it"`
		}
		caller
	}
	namesOutput struct {
		Body struct {
			People []GroupName `json:"people" doc:"Whom a view can be handed to"`
			Groups []GroupName `json:"groups" doc:"With which views can be shared"`
		}
	}
)

func (s *library) registerSharing(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "share-view", Method: http.MethodPut, Path: "/api/views/{key}/shares",
		Summary: "Say who sees a view, and who may save over it", Metadata: analysts, Errors: []int{403, 404, 422},
	}, s.share)
	huma.Register(api, huma.Operation{
		OperationID: "hand-over-view", Method: http.MethodPut, Path: "/api/views/{key}/owner",
		Summary: "Hand a view over to somebody else", Metadata: analysts, Errors: []int{403, 404, 422},
	}, s.handOver)
	huma.Register(api, huma.Operation{
		OperationID: "names", Method: http.MethodGet, Path: "/api/names",
		Summary: "The people and groups that a view can be handed to or shared with", Metadata: analysts,
		Errors: []int{403},
	},
		func(ctx context.Context, _ *struct{}) (*namesOutput, error) {
			people, groups, err := s.Store.Names(ctx)
			if err != nil {
				return nil, s.failed(ctx, "names", err)
			}
			out := &namesOutput{}
			out.Body.People, out.Body.Groups = groupNames(people), groupNames(groups)
			return out, nil
		})
}

func (s *library) share(ctx context.Context, in *shareInput) (*viewOutput, error) {
	v, err := s.owned(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if err := checkTotals(in.Body.Shares, v.Kind); err != nil {
		return nil, err
	}
	if err := s.Store.ShareView(ctx, who(ctx).ID, in.Key, shares(in.Body.Shares)); err != nil {
		return nil, s.notShared(ctx, err)
	}
	out, err := s.view(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	s.noted(
		ctx, in.caller, store.Shared,
		fmt.Sprintf("view “%s”: was %s, now %s", v.Name, v.Audience, out.Body.Audience),
	)
	return out, nil
}

// checkTotals is the problem with shares for totals alone.
func checkTotals(list []Share, kind store.Kind) error {
	for i, sh := range list {
		why := ""
		switch {
		case sh.Totals == 0:
		case kind != store.ViewKind && kind != store.BoardKind:
			why = "Records are not shared for their totals; share a view of them."
		case sh.Totals == 1:
			why = "Groups of one record would be told of as they are. Choose two at least; five is usual."
		case sh.Edit:
			why = "Whoever may save over it sees its records. Leave out one of the two."
		}
		if why != "" {
			return huma.Error422UnprocessableEntity(why, &huma.ErrorDetail{
				Location: fmt.Sprintf("body.shares[%d].totals", i), Message: why,
			})
		}
	}
	return nil
}

// notShared is the problem with a share, of a view or of records.
func (s service) notShared(ctx context.Context, err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return huma.Error422UnprocessableEntity(
			"One of the groups is not there any more. Look at the list again, and choose.",
		)
	}
	return s.failed(ctx, "share", err)
}

func (s *library) handOver(ctx context.Context, in *handOverInput) (*struct{}, error) {
	v, err := s.owned(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	err = s.Store.HandOver(ctx, who(ctx).ID, in.Key, in.Body.To)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error422UnprocessableEntity(
			"There is nobody of that number who can own views. Choose an analyst or an administrator.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "hand over", err)
	}
	to, err := s.Store.Person(ctx, in.Body.To)
	if err != nil {
		return nil, s.failed(ctx, "hand over", err)
	}
	s.noted(ctx, in.caller, store.HandedOver, fmt.Sprintf("view “%s” to %s", v.Name, named(to)))
	return nil, nil
}

func shares(in []Share) []store.Share {
	out := make([]store.Share, len(in))
	for i, sh := range in {
		out[i] = store.Share(sh)
	}
	return out
}

func shared(in []store.Share) []Share {
	out := make([]Share, len(in))
	for i, sh := range in {
		out[i] = Share(sh)
	}
	return out
}

func groupNames(in []store.GroupName) []GroupName {
	out := make([]GroupName, len(in))
	for i, g := range in {
		out[i] = GroupName(g)
	}
	return out
}

// sees says whether shares let somebody see a view.
func sees(list []Share, whose store.Whose) bool {
	return slices.ContainsFunc(list, func(sh Share) bool {
		return sh.Role == "" && (sh.Group == 0 || sh.Group == whose.Group)
	})
}

// roleNames are the roles as audiences.
var roleNames = map[store.Role]string{
	store.Reader: "all readers", store.Analyst: "all analysts", store.Administrator: "all administrators",
}

// audience says who sees a view beside its owner.
func audience(list []store.Share) string {
	if len(list) == 0 {
		return "only me"
	}
	words := make([]string, len(list))
	for i, sh := range list {
		switch {
		case sh.Role != "":
			words[i] = roleNames[sh.Role]
		case sh.Group != 0:
			words[i] = sh.Name
		default:
			words[i] = "everyone"
		}
		if sh.Edit {
			words[i] += " (edit)"
		}
		if sh.Totals > 0 {
			words[i] += " (totals only)"
		}
	}
	return strings.Join(words, ", ")
}
