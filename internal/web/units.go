package web

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/proposal"
	"gavrik/internal/core/view"
)

type unitsInput struct {
	Body struct {
		View  view.Document `json:"view" doc:"Its filter decides which records count"`
		Field string        `json:"field" doc:"A field of dates or moments"`
	}
}

// UnitGroups is a unit of time with how many groups it makes.
type UnitGroups struct {
	Unit   calendar.Unit `json:"unit" enum:"day,week,month,quarter,year"`
	Groups int           `json:"groups"`
}

type unitsOutput struct {
	Body struct {
		Proposed calendar.Unit `json:"proposed" enum:"day,week,month,quarter,year" doc:"The unit that makes a readable number of groups"`
		Units    []UnitGroups  `json:"units"`
	}
}

// units counts the groups that each unit of time would make of a field, and proposes one.
func (s *questions) units(ctx context.Context, in *unitsInput) (*unitsOutput, error) {
	g, _, ref, err := s.filtered(ctx, &in.Body.View, in.Body.Field)
	if err != nil {
		return nil, err
	}
	if !ref.Field.Type.Temporal() {
		return nil, huma.Error422UnprocessableEntity(
			ref.Label + " is " + ref.Field.Type.Word() + ", and has no units of time.",
		)
	}
	doc := *in.Body.View.Selection()
	groups := map[calendar.Unit]int{}
	out := &unitsOutput{}
	out.Body.Units = []UnitGroups{}
	for _, unit := range proposal.Units() {
		doc.Groups = []view.Group{{Field: in.Body.Field, Unit: unit}}
		a, err := g.Answer(ctx, &doc)
		if err != nil {
			return nil, s.refused(ctx, err)
		}
		groups[unit] = a.Levels[0]
		out.Body.Units = append(out.Body.Units, UnitGroups{Unit: unit, Groups: groups[unit]})
	}
	out.Body.Proposed = proposal.Unit(groups)
	return out, nil
}
