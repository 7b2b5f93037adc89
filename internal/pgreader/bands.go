package pgreader

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
)

// mostBands is how many bands of a bucket the database is told of.
const mostBands = 30

// band is one of a bucket, the rest or the blanks, and says in SQL which records lie in it.
type band struct{ label, is string }

// bandsOf are those of a bucket. The first that holds a value has it.
func (d *deciding) bandsOf(ctx context.Context, b *plan.Bucket) ([]band, error) {
	if len(b.Bands) > mostBands || b.Rest == "" || b.Blank == "" {
		return nil, &undecided{"a bucket of very many bands"}
	}
	met := func(t *plan.Predicate) (string, error) {
		t.Ref = b.Of
		test, err := d.leaf(ctx, t)
		if err != nil {
			return "", err
		}
		return test.met, nil
	}
	var out []band
	none := []string{"false"} // of the bands before
	for _, one := range b.Bands {
		t := &plan.Predicate{Match: plan.MatchSet}
		switch {
		case b.Of.Field.Type == catalog.Text:
			t.Texts, t.Given = one.Texts, one.Texts
		case b.Of.Field.Approx:
			t.Floats = []plan.FloatInterval{one.Float}
		default:
			t.Ranges = []plan.Interval{one.Range}
		}
		is, err := met(t)
		if err != nil {
			return nil, err
		}
		out = append(out, band{one.Label, "(" + is + " AND NOT (" + strings.Join(none, " OR ") + "))"})
		none = append(none, is)
	}
	blank, err := met(&plan.Predicate{Match: plan.MatchBlank})
	if err != nil {
		return nil, err
	}
	none = append(none, blank)
	return append(out, band{b.Rest, "NOT (" + strings.Join(none, " OR ") + ")"}, band{b.Blank, blank}), nil
}

// inBands decides a condition on a bucket by the bands that meet it.
func (d *deciding) inBands(ctx context.Context, t *plan.Predicate, b *plan.Bucket) (*test, error) {
	out := &test{of: t, met: "false", blank: "false"}
	if t.Match == plan.MatchField {
		return nil, &undecided{"two fields"}
	}
	bands, err := d.bandsOf(ctx, b)
	if err != nil || t.Match == plan.MatchBlank {
		return out, err
	}
	var labels []string
	for _, one := range bands {
		labels = append(labels, one.label)
	}
	met, step, err := decided(ctx, t, labels)
	if err != nil {
		return nil, err
	}
	out.step, out.met = step, inAny(bands, met...)
	return out, nil
}

// inBand says in SQL that a record lies in a band.
func (d *deciding) inBand(ctx context.Context, b *plan.Bucket, label string) (string, error) {
	bands, err := d.bandsOf(ctx, b)
	if err != nil {
		return "", err
	}
	return inAny(bands, label), nil
}

// inAny says in SQL that a record lies in a band of one of some labels.
func inAny(bands []band, labels ...string) string {
	var parts []string
	for _, one := range bands {
		if slices.Contains(labels, one.label) {
			parts = append(parts, one.is)
		}
	}
	return anyOf(parts)
}
