package pgreader

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
)

const (
	// keptBytes is what lines may take that are kept for the next question, keptFor how long they are: another
	// order of the groups, another total of the same amounts, another way of showing needs the same lines.
	keptBytes = 256 << 20
	keptFor   = 5 * time.Minute
)

// brought is what a database brought for a question.
type brought struct {
	*lines
	tests   []*test
	decided bool
	at      time.Time
}

// bring asks the database, unless the same was asked a while ago.
func (d *deciding) bring(ctx context.Context) (*brought, error) {
	key, err := d.lineKey()
	if err != nil {
		return nil, err
	}
	if b, ok := cache.Find[*brought](d.databases.lines, key); ok && (time.Since(b.at) > keptFor || IsAnew(ctx)) {
		cache.Drop(d.databases.lines, key)
	}
	got, err := cache.Get(ctx, d.databases.lines, key, func() (*brought, int64, error) {
		b := &brought{at: time.Now()}
		err := d.reading(ctx, func() (err error) {
			if b.decided, err = d.conditions(ctx); err == nil {
				b.lines, err = d.ask(ctx, b.decided)
			}
			return err
		})
		b.tests = d.tests
		return b, b.bytes(), err
	})
	if err != nil {
		return nil, err
	}
	return got, d.adopt(got)
}

// adopt takes over what was decided of conditions that say the same as this question's, in the same order.
func (d *deciding) adopt(b *brought) error {
	d.tests, d.by = nil, map[*plan.Node]int{}
	if !b.decided {
		return d.leaveConditions()
	}
	var each func(n *plan.Node)
	each = func(n *plan.Node) {
		switch {
		case n == nil || n.Kind == plan.Open:
		case n.Kind == plan.Leaf:
			one := *b.tests[len(d.tests)]
			one.of = n.Predicate
			d.by[n] = len(d.tests)
			d.tests = append(d.tests, &one)
		default:
			for _, c := range n.Children {
				each(c)
			}
		}
	}
	each(d.plan.Filter)
	if d.plan.Compare != nil {
		each(d.plan.Compare.Filter)
	}
	return nil
}

// lineKey names all that decides which lines a question is answered by.
func (d *deciding) lineKey() (string, error) {
	type column struct {
		Name, Expr, Among string
		As                catalog.Field
		Alone             bool
		Grain             grain
		Everywhere, Each  bool
	}
	var uses []column
	memory := d.All != nil || d.only != "" || len(d.within) > 0
	for _, name := range slices.Sorted(maps.Keys(d.uses)) {
		u := d.uses[name]
		c, _ := d.away.Column(name)
		uses = append(uses, column{
			name, c.Expr, u.among, c.Field, u.alone, u.grain, u.everywhere, slices.Contains(d.key, name),
		})
		memory = memory || u.among != ""
	}
	filters := []*plan.Node{d.plan.Filter}
	if d.plan.Compare != nil {
		filters = append(filters, d.plan.Compare.Filter)
	}
	of := struct {
		URL, Set                         string
		Reader                           uint64 // where what is in memory decides, too
		Filters                          []*plan.Node
		Derived                          map[string]*plan.Derived
		Uses                             []column
		Each, All, Counted, Any, Average bool
		Sort                             []plan.Sort // of a stretch of the view
		After, Until                     place
		Within                           []inGroup
		Sample                           int
		Only, Setting                    string
		Today                            int64
	}{
		URL: d.away.URL(), Set: d.away.Set, Filters: filters, Uses: uses,
		Each: d.each, All: d.all, Counted: d.counted, Any: d.anyOrder,
		Average: len(averages(d.plan)) > 0, Sample: d.sample, Only: d.only,
		After: d.after, Until: d.until, Within: d.within,
		Setting: d.plan.Calendar.Setting(), Today: d.plan.Calendar.Today(),
	}
	for _, n := range filters {
		linked, made := d.reach(n)
		if memory = memory || linked; made {
			of.Derived = d.plan.Derived
		}
	}
	if d.page {
		of.Sort = d.plan.Sort
	}
	if memory {
		of.Reader = d.id
	}
	text, err := json.Marshal(of)
	if err != nil {
		return "", fmt.Errorf("pgreader: %w", err)
	}
	return fmt.Sprintf("%x", sha256.Sum256(text)), nil
}

// reach says whether conditions ask for linked records, and for fields that the view makes.
func (d *deciding) reach(n *plan.Node) (linked, made bool) {
	if n == nil {
		return false, false
	}
	linked = n.Linked != nil
	if t := n.Predicate; t != nil {
		linked = linked || len(t.Ref.Links) > 0 || t.Other != nil && len(t.Other.Links) > 0
		made = d.plan.Derived[t.Ref.Path] != nil || t.Other != nil && d.plan.Derived[t.Other.Path] != nil
	}
	for _, c := range n.Children {
		l, m := d.reach(c)
		linked, made = linked || l, made || m
	}
	return linked || made, made
}

// bytes estimates what lines take.
func (b *brought) bytes() int64 {
	if b.lines == nil {
		return 0
	}
	n := int64(8 * len(b.many) * (1 + len(b.met) + len(b.blank) + len(b.sum) + len(b.filled)))
	for _, c := range b.alone {
		n += c.Bytes()
	}
	return n
}

type anewKey struct{}

// Anew is a context of questions that are asked again, whatever was answered to the same a while ago.
func Anew(ctx context.Context) context.Context { return context.WithValue(ctx, anewKey{}, true) }

// IsAnew says that a context is of such questions.
func IsAnew(ctx context.Context) bool { return ctx.Value(anewKey{}) != nil }
