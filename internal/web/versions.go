package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// VersionSummary is a view as it was saved once.
type VersionSummary struct {
	Version int       `json:"version"`
	Name    string    `json:"name"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Changes []string  `json:"changes" doc:"What it changed against the version before it, in words"`
}

// BinnedView is a view in its owner's bin.
type BinnedView struct {
	Key  string     `json:"key"`
	Name string     `json:"name"`
	Kind store.Kind `json:"kind" enum:"view,board"`
	At   time.Time  `json:"at" doc:"When it was put there"`
}

type (
	versionsOutput struct {
		Body struct {
			Versions []VersionSummary `json:"versions" doc:"The newest first"`
		}
	}
	versionInput struct {
		Key     string `path:"key"`
		Version int    `path:"version"`
	}
	versionOutput struct {
		Body struct {
			VersionSummary
			Description string  `json:"description"`
			Document    Content `json:"document"`
		}
	}
	markInput struct {
		Key  string `path:"key"`
		Body struct {
			Label string `json:"label,omitempty" maxLength:"40"`
			Mark  string `json:"mark,omitempty" enum:"mulberry,pine,honey,slate,"`

			Template bool `json:"template,omitempty" doc:"Opening it makes a copy of one's own"`
		}
	}
	binOutput struct {
		Body struct {
			Views []BinnedView `json:"views" doc:"The last binned first"`
		}
	}
)

func (s *library) registerVersions(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "versions", Method: http.MethodGet, Path: "/api/views/{key}/versions",
		Summary: "Every version of a view, with what each changed", Errors: []int{404},
	}, s.versions)
	huma.Register(api, huma.Operation{
		OperationID: "version", Method: http.MethodGet, Path: "/api/views/{key}/versions/{version}",
		Summary: "A view as it was saved once", Errors: []int{404},
	}, s.version)
	huma.Register(api, huma.Operation{
		OperationID: "mark-view", Metadata: analysts, Method: http.MethodPut, Path: "/api/views/{key}/mark",
		Summary: "Give a view a label and a colour, and make it a template or no longer", Errors: []int{403, 404},
	},
		func(ctx context.Context, in *markInput) (*viewOutput, error) {
			if _, err := s.owned(ctx, in.Key); err != nil {
				return nil, err
			}
			if err := s.Store.Mark(
				ctx, who(ctx).ID, in.Key, strings.TrimSpace(in.Body.Label), in.Body.Mark, in.Body.Template,
			); err != nil {
				return nil, s.failed(ctx, "mark view", err)
			}
			return s.view(ctx, in.Key)
		})
	huma.Register(api, huma.Operation{
		OperationID: "bin", Method: http.MethodGet, Path: "/api/bin", Summary: "One's own views in the bin",
	},
		func(ctx context.Context, _ *struct{}) (*binOutput, error) {
			list, err := s.Store.Bin(ctx, who(ctx).ID)
			if err != nil {
				return nil, s.failed(ctx, "bin", err)
			}
			out := &binOutput{}
			out.Body.Views = []BinnedView{}
			for _, v := range list {
				out.Body.Views = append(out.Body.Views, BinnedView{v.Key, v.Name, v.Kind, v.BinnedAt})
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "unbin", Metadata: analysts, Method: http.MethodPost, Path: "/api/bin/{key}",
		Summary: "Take a view back from the bin", Errors: []int{404},
	},
		func(ctx context.Context, in *viewInput) (*viewOutput, error) {
			if err := s.fromBin(ctx, s.Store.UnbinView(ctx, who(ctx).ID, in.Key)); err != nil {
				return nil, err
			}
			return s.view(ctx, in.Key)
		})
	huma.Register(api, huma.Operation{
		OperationID: "delete-view", Metadata: analysts, Method: http.MethodDelete, Path: "/api/bin/{key}",
		Summary: "Delete a view in the bin for ever", Errors: []int{404},
	},
		func(ctx context.Context, in *viewInput) (*struct{}, error) {
			return nil, s.fromBin(ctx, s.Store.DeleteView(ctx, who(ctx).ID, in.Key))
		})
}

func (s *library) fromBin(ctx context.Context, err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return huma.Error404NotFound("There is no such view in your bin.")
	}
	if err != nil {
		return s.failed(ctx, "bin", err)
	}
	return nil
}

// saved lists the versions of a view that the reader may see.
func (s *library) saved(ctx context.Context, key string) ([]store.Version, error) {
	list, err := s.Store.Versions(ctx, who(ctx).ID, key)
	if err != nil {
		return nil, s.failed(ctx, "versions", err)
	}
	if len(list) == 0 {
		return nil, noSuch("view")
	}
	return list, nil
}

func (s *library) versions(ctx context.Context, in *viewInput) (*versionsOutput, error) {
	list, err := s.saved(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &versionsOutput{}
	out.Body.Versions = make([]VersionSummary, len(list))
	for i, v := range list {
		out.Body.Versions[i] = VersionSummary{
			Version: v.Version, Name: v.Name, By: v.SavedByName, At: v.SavedAt, Changes: []string{},
		}
		if i+1 < len(list) {
			out.Body.Versions[i].Changes = s.between(ctx, g, list[i+1], v)
		}
	}
	return out, nil
}

// between says what changed from one version to the next.
func (s *library) between(ctx context.Context, g *requestScope, before, after store.Version) []string {
	out := []string{}
	if before.Name != after.Name {
		out = append(out, fmt.Sprintf("renamed from “%s” to “%s”", before.Name, after.Name))
	}
	if before.Description != after.Description {
		out = append(out, "described in other words")
	}
	var states [2]Content
	for i, v := range []store.Version{before, after} {
		c, err := contentOf(v.Document)
		if err != nil {
			return append(out, "it cannot be compared: "+err.Error())
		}
		states[i] = c
	}
	changes, err := s.changed(ctx, g, states[0], states[1])
	if err != nil {
		return append(out, "it cannot be compared, as it names what is no longer there: "+err.Error())
	}
	return append(out, changes...)
}

func (s *library) version(ctx context.Context, in *versionInput) (*versionOutput, error) {
	list, err := s.saved(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	for _, v := range list {
		if v.Version != in.Version {
			continue
		}
		doc, err := contentOf(v.Document)
		if err != nil {
			return nil, s.failed(ctx, "version", err)
		}
		out := &versionOutput{}
		out.Body.VersionSummary = VersionSummary{
			Version: v.Version, Name: v.Name, By: v.SavedByName, At: v.SavedAt, Changes: []string{},
		}
		out.Body.Description, out.Body.Document = v.Description, doc
		return out, nil
	}
	return nil, huma.Error404NotFound(fmt.Sprintf("The view has no version %d.", in.Version))
}
