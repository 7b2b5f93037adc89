package pgreader

import (
	"context"
	"fmt"
	"strings"
	"sync"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/records"
)

// sampled is how many of the first records of a set are looked at where a few will do.
const sampled = 20_000

// samples are the first records of sets that stay, each set asked for once.
type samples struct {
	mu   sync.Mutex // protects made
	made map[string]*sample
}

type sample struct {
	mu     sync.Mutex // one asks at a time; protects engine
	engine *engine.Engine
	whole  bool // there are no others
}

func (s *samples) of(set string) *sample {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.made == nil {
		s.made = map[string]*sample{}
	}
	if s.made[set] == nil {
		s.made[set] = &sample{}
	}
	return s.made[set]
}

// sampled is an engine over the first records of a set that stays.
func (r *Reader) sampled(ctx context.Context, set string) (*engine.Engine, error) {
	s := r.samples.of(set)
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.engine != nil {
		return s.engine, nil
	}
	words := r.Catalog.Set(set)
	q := r.question(&plan.Plan{Records: set, One: words.One, Many: words.Many})
	q.sample, q.anyOrder = min(sampled, r.opts.Lines), true
	for _, f := range words.Fields {
		if f.Type != catalog.Picture {
			q.looked = append(q.looked, catalog.Ref{Path: f.Key, Set: set, Label: f.Label, Field: f})
		}
	}
	e, _, got, err := q.engine(ctx)
	if err != nil {
		return nil, err
	}
	s.engine, s.whole = e, len(got.many) < q.sample
	return e, nil
}

// allDifferent says that a field of a set that stays has more different values than can be asked for, as its
// first records tell.
func (r *Reader) allDifferent(ctx context.Context, p *plan.Plan, of catalog.Ref) (bool, error) {
	away := r.Loaded.Away[p.Records]
	if away == nil || away.Rows <= int64(r.opts.Lines) || len(of.Links) > 0 || p.Derived[of.Path] != nil {
		return false, nil
	}
	e, err := r.sampled(ctx, p.Records)
	if err != nil {
		return false, err
	}
	v, err := e.Values(ctx, &plan.Plan{Records: p.Records, Calendar: p.Calendar}, of, "", 0)
	if err != nil {
		return false, err
	}
	const most = 0.9 // of the first records
	return float64(v.Distinct) > most*float64(e.Snapshot().Tables[p.Records].Rows), nil
}

// holding says in SQL, of a text of a set's own, that it holds another one; and a few more for which the
// engine has to look.
func (r *Reader) holding(p *plan.Plan, of catalog.Ref, text string) (string, bool) {
	c, ok := r.Loaded.Away[p.Records].Column(of.Field.Key)
	if !ok || of.Field.Type != catalog.Text || text == "" || !ascii(text) {
		return "", false
	}
	plain := "lower(" + c.Expr + ")"
	return fmt.Sprintf(
		"(strpos(%[1]s, %[2]s) > 0 OR octet_length(%[1]s) <> length(%[1]s))",
		plain, records.Literal(strings.ToLower(text)),
	), true
}

// firstOf tells what the first records of a set hold in a field.
func (r *Reader) firstOf(ctx context.Context, of catalog.Ref) (result.Facts, error) {
	if of.Field.Type == catalog.Picture {
		return result.Facts{First: true}, nil
	}
	e, err := r.sampled(ctx, of.Set)
	if err != nil {
		return result.Facts{}, err
	}
	of.Path, of.Links = of.Field.Key, nil
	out, err := e.Facts(ctx, nil, of)
	out.First = !r.samples.of(of.Set).whole
	return out, err
}
