package web

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/proposal"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// BandCount is a band with the records that lie in it.
type BandCount struct {
	Label string `json:"label" doc:"Its name; made from its bounds, if it has none"`
	Kept  int    `json:"kept" doc:"Records under the filter"`
	All   int    `json:"all"`
}

// Seam is a stretch that no band holds, or that two of them hold.
type Seam struct {
	Lower int    `json:"lower" doc:"Place of the lower band"`
	Upper int    `json:"upper"`
	Gap   bool   `json:"gap" doc:"No band holds it; otherwise both do, and the first in the list has it"`
	Words string `json:"words"`
}

type bucketOutput struct {
	Body struct {
		Bands    []BandCount `json:"bands"`
		Rest     BandCount   `json:"rest" doc:"Values that fit no band"`
		Blank    BandCount   `json:"blank"`
		Seams    []Seam      `json:"seams"`
		Faults   []string    `json:"faults"`
		Faulty   []int       `json:"faulty" doc:"Place of the band that each fault lies in, or -1"`
		Distinct int         `json:"distinct"`
	}
}

func (s *questions) bucket(ctx context.Context, in *madeInput) (*bucketOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &bucketOutput{}
	b := &out.Body
	b.Bands, b.Seams, b.Faults, b.Faulty = []BandCount{}, []Seam{}, []string{}, []int{}
	p, ref, err := g.Field(&in.Body.View, in.Body.Key)
	var faults plan.Faults
	if errors.As(err, &faults) {
		for _, f := range faults {
			var bucket, band int
			if n, _ := fmt.Sscanf(f.Path, "buckets[%d].bands[%d]", &bucket, &band); n < 2 {
				band = -1
			}
			b.Faults, b.Faulty = append(b.Faults, sentence(f.Message)), append(b.Faulty, band)
		}
		return out, nil
	}
	if err != nil {
		return nil, s.failed(ctx, "bucket", err)
	}
	d := p.Derived[in.Body.Key]
	if d == nil || d.Bucket == nil {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The view has no bucket %q.", in.Body.Key))
	}
	values, err := g.Reader.Values(ctx, p, ref, "", math.MaxInt32)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	count := func(label string) BandCount {
		for _, v := range values.List {
			if v.Value.Text == label {
				return BandCount{label, v.Kept, v.All}
			}
		}
		return BandCount{Label: label}
	}
	for _, band := range d.Bucket.Bands {
		b.Bands = append(b.Bands, count(band.Label))
	}
	b.Rest, b.Blank = count(d.Bucket.Rest), count(d.Bucket.Blank)
	for _, seam := range d.Bucket.Seams(format.NewWriter(format.People, g.Calendar)) {
		b.Seams = append(b.Seams, Seam{seam.Bands[0], seam.Bands[1], seam.Gap, seam.Words})
	}
	return out, nil
}

type splitInput struct {
	Body struct {
		View  view.Document `json:"view" doc:"Its filter decides which values count"`
		Field string        `json:"field"`
		Kind  string        `json:"kind" enum:"round,widths,counts,ageing" doc:"About equal counts between round bounds (of dates, whole units of time), equal widths, equal counts, or days: 7, 14, 30, 60, 90, 180, 365"`
		Parts int           `json:"parts,omitempty" minimum:"2" maximum:"50" doc:"About how many bands; not for ageing"`
	}
}

type splitOutput struct {
	Body struct {
		Bands []view.Band `json:"bands"`
	}
}

func (s *questions) split(ctx context.Context, in *splitInput) (*splitOutput, error) {
	g, p, ref, err := s.filtered(ctx, &in.Body.View, in.Body.Field)
	if err != nil {
		return nil, err
	}
	f := ref.Field
	if !f.Type.Numeric() && !f.Type.Temporal() {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf(
			"%s is %s; collect its values from the list instead.", ref.Label, f.Type.Word(),
		))
	}
	out := &splitOutput{}
	if in.Body.Kind == "ageing" {
		if out.Body.Bands, err = ageing(f); err != nil {
			return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
		}
		return out, nil
	}
	parts := max(2, in.Body.Parts)
	var cuts []cell.Cell
	if in.Body.Kind == "widths" || in.Body.Kind == "round" && f.Type.Temporal() {
		spread, err := g.Reader.Distribution(ctx, p, ref, parts)
		if err != nil {
			return nil, s.refused(ctx, err)
		}
		for _, b := range spread.Bins {
			from := b.From
			if from.Kind == cell.Blank {
				from = b.Value
			}
			cuts = append(cuts, from)
		}
		cuts = cuts[min(1, len(cuts)):]
	} else if cuts, err = g.quantiles(ctx, &in.Body.View, in.Body.Field, parts); err != nil {
		return nil, s.refused(ctx, err)
	}
	if in.Body.Kind == "round" {
		cuts = rounded(cuts, f)
	}
	operands := make([]string, len(cuts))
	for i, c := range cuts {
		operands[i] = result.Operand(g.Calendar, c, f)
	}
	out.Body.Bands = bandsBetween(operands)
	return out, nil
}

// rounded are cuts at round numbers; whole units of time are round as they are.
func rounded(cuts []cell.Cell, f catalog.Field) []cell.Cell {
	values := []int64{}
	for _, c := range cuts {
		if c.Kind != cell.Number && c.Kind != cell.Duration {
			return cuts
		}
		values = append(values, c.Int)
	}
	out := []cell.Cell{}
	for _, v := range proposal.Round(values, f.Type) {
		out = append(out, cell.OfInt(v, f))
	}
	return out
}

// quantiles are the values at which the kept records, in order, are cut into so many
// parts; equal values are never cut apart.
func (g *requestScope) quantiles(
	ctx context.Context, doc *view.Document, field string, parts int,
) ([]cell.Cell, error) {
	sorted := *doc.Selection()
	sorted.Columns, sorted.Sort = []view.Column{{Field: field}}, []view.Sort{{Field: field}}
	sorted.Filter = &view.Condition{All: []view.Condition{{Field: field, Op: view.Filled}}}
	if doc.Filter != nil {
		sorted.Filter.All = append(sorted.Filter.All, *doc.Filter)
	}
	a, err := g.Answer(ctx, &sorted)
	if err != nil {
		return nil, err
	}
	at := func(row int) (cell.Cell, error) {
		w, err := a.Window(ctx, result.Open{}, row, 1)
		if err != nil || len(w.Lines) == 0 {
			return cell.Cell{}, err
		}
		return w.Lines[0].Cells[0], nil
	}
	last, err := at(0)
	if err != nil {
		return nil, err
	}
	var cuts []cell.Cell
	for i := 1; i < parts; i++ {
		cut, err := at(a.Kept * i / parts)
		if err != nil {
			return nil, err
		}
		if cut != last {
			cuts = append(cuts, cut)
		}
		last = cut
	}
	return cuts, nil
}

// bandsBetween makes bands between cuts, open at both ends.
func bandsBetween(cuts []string) []view.Band {
	cuts = slices.Compact(cuts)
	if len(cuts) == 0 {
		return []view.Band{}
	}
	out := []view.Band{{Below: cuts[0]}}
	for i := 1; i < len(cuts); i++ {
		out = append(out, view.Band{From: cuts[i-1], Below: cuts[i]})
	}
	return append(out, view.Band{From: cuts[len(cuts)-1]})
}

// ages are the usual splits of an age, in days.
var ages = []int{7, 14, 30, 60, 90, 180, 365}

// ageing makes bands of ages: of a number of days, or of a duration.
func ageing(f catalog.Field) ([]view.Band, error) {
	bound := func(days int) string { return fmt.Sprint(days + 1) }
	switch {
	case f.Type == catalog.Duration:
		bound = func(days int) string { return fmt.Sprintf("%d days", days) }
	case f.Type != catalog.Whole:
		return nil, fmt.Errorf(
			"an age is a number of days or a duration; %s is %s: calculate its age first", f.Label, f.Type.Word(),
		)
	}
	out := []view.Band{{Label: fmt.Sprintf("up to %d days", ages[0]), Below: bound(ages[0])}}
	for i, days := range ages[1:] {
		out = append(out, view.Band{
			Label: fmt.Sprintf("%d to %d days", ages[i]+1, days), From: bound(ages[i]), Below: bound(days),
		})
	}
	last := ages[len(ages)-1]
	return append(out, view.Band{Label: fmt.Sprintf("over %d days", last), From: bound(last)}), nil
}
