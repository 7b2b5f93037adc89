// Package access says what a reader sees: record sets, fields and, by rules, records.
//
// A restriction is not a condition that every computation would have to remember. The reader
// gets a catalog and a snapshot of her own, made once, from which all that is restricted has
// been taken out before anything is counted. Totals, look-ups, distributions,
// searches and exports then cannot tell of it, for it is not there.
package access

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Policy is what a reader does not see, by record set. The zero value hides nothing.
type Policy map[string]Restriction

// Restriction is what is kept of one record set.
type Restriction struct {
	// Hidden keeps all of it; Unsaid keeps, too, that it is there.
	Hidden, Unsaid bool
	// Totals, if not 0, keeps all of it, too, but for groups of so many records at least with their totals,
	// where a view is shown in totals alone; see InTotals.
	Totals int `json:",omitempty"`
	// Apart keeps links that lead to it: what is told in totals cannot be drawn from single records of it.
	Apart bool `json:",omitempty"`
	// Fields are the keys of those that are kept.
	Fields []string
	// Rules are views: the reader sees the records that the filters of all of them keep.
	// A rule that asks something that has no answer keeps none.
	Rules []*view.Document
}

// Clear says that the reader sees everything.
func (s Policy) Clear() bool { return len(s) == 0 }

// Add limits a record set further.
func (s Policy) Add(set string, l Restriction) {
	have := s[set]
	have.Hidden, have.Unsaid, have.Apart = have.Hidden || l.Hidden, have.Unsaid || l.Unsaid, have.Apart || l.Apart
	have.Totals = max(have.Totals, l.Totals)
	for _, f := range l.Fields {
		if !slices.Contains(have.Fields, f) {
			have.Fields = append(slices.Clip(have.Fields), f)
		}
	}
	slices.Sort(have.Fields)
	have.Rules = append(slices.Clip(have.Rules), l.Rules...)
	s[set] = have
}

// gone says whether no record of a set is seen.
func (l Restriction) gone() bool { return l.Hidden || l.Totals > 0 }

// Least is how many records groups of a set have to be of to be told of, with their totals; 0, if the reader
// sees its records, or nothing of it.
func (s Policy) Least(set string) int {
	if l := s[set]; !l.Hidden && !l.Unsaid {
		return l.Totals
	}
	return 0
}

// InTotals is the policy by which a view of a set is worked out for a reader who sees totals of it alone: its
// records go in, and no other way leads to them.
func (s Policy) InTotals(set string) Policy {
	out := maps.Clone(s)
	l := out[set]
	l.Totals, l.Apart = 0, true
	out[set] = l
	return out
}

// Hide keeps what is not shown, as it came only after the limits were made: fields and,
// where shown is asked with the field "", record sets. Links to a set go with it.
func (s Policy) Hide(full *catalog.Catalog, shown func(set, field string) bool) {
	for _, set := range full.Sets {
		if !shown(set.Key, "") {
			s.Add(set.Key, Restriction{Hidden: true})
			continue
		}
		for _, f := range set.Fields {
			if !shown(set.Key, f.Key) {
				s.Add(set.Key, Restriction{Fields: []string{f.Key}})
			}
		}
	}
}

// Ordered are the limits in the order of their record sets.
func (s Policy) Ordered() []Restriction {
	out := make([]Restriction, 0, len(s))
	for _, set := range slices.Sorted(maps.Keys(s)) {
		out = append(out, s[set])
	}
	return out
}

// Catalog is what the reader can ask for. What she cannot is named in it as restricted. An
// amount is restricted with the field that names its currency: without it, its totals
// would put currencies together.
func (s Policy) Catalog(full *catalog.Catalog) *catalog.Catalog {
	if s.Clear() {
		return full
	}
	out := &catalog.Catalog{Notices: full.Notices, Sources: full.Sources}
	for _, set := range full.Sets {
		if s[set.Key].Unsaid {
			continue
		}
		if s[set.Key].gone() {
			out.Restricted = append(out.Restricted, set)
			continue
		}
		seen := *set
		seen.Fields, seen.Links = nil, nil
		hidden := s[set.Key].Fields
		for _, f := range set.Fields {
			if slices.Contains(hidden, f.Key) || s.hidesCurrency(set, f) {
				seen.Restricted.Fields = append(seen.Restricted.Fields, f)
			} else {
				seen.Fields = append(seen.Fields, f)
			}
		}
		for _, l := range set.Links {
			if s[l.To].Unsaid {
				continue
			}
			if s[l.To].gone() || s[l.To].Apart || slices.ContainsFunc(l.By, func(key string) bool { return slices.Contains(hidden, key) }) {
				seen.Restricted.Links = append(seen.Restricted.Links, l)
			} else {
				seen.Links = append(seen.Links, l)
			}
		}
		if seen.Field(seen.Name) == nil && len(seen.Fields) > 0 {
			seen.Name = seen.Fields[0].Key
		}
		out.Sets = append(out.Sets, &seen)
	}
	for _, set := range out.Sets {
		set.Standard = slices.DeleteFunc(slices.Clone(set.Standard), func(path string) bool {
			_, err := out.Resolve(set.Key, path)
			return err != nil
		})
	}
	return out
}

// hidesCurrency says whether the reader may not see what names the currency of a field's
// amounts, beside them or in the record that a link leads to.
func (s Policy) hidesCurrency(set *catalog.RecordSet, f catalog.Field) bool {
	link, key, linked := strings.Cut(f.CurrencyBy, ".")
	if !linked {
		return f.CurrencyBy != "" && slices.Contains(s[set.Key].Fields, f.CurrencyBy)
	}
	l := set.Link(link)
	return l == nil || s[l.To].gone() || s[l.To].Apart || slices.Contains(s[l.To].Fields, key)
}

// Kept lists the rows that a plan's filter keeps of all records, ascending.
type Kept func(ctx context.Context, p *plan.Plan) ([]int32, error)

// Snapshot is the records that the reader sees of all. Rules are checked, and carried out on all records,
// by the functions given. A record that belongs to one she does not see, by whatever link, is not seen
// either: the payments of a hidden booking are hidden. A rule with a fault hides every record of its set,
// and is reported. Out marks rows by their sets that are known not to be seen. What before, if not nil, has
// made of the same records is taken over.
func (s Policy) Snapshot(
	ctx context.Context, all *table.Snapshot, full *catalog.Catalog, kept Kept,
	check func(*view.Document) (*plan.Plan, error), out map[string][]bool, before *table.Cut,
) (*table.Cut, error) {
	gone := map[string][]bool{} // by set and row, of sets that lose any
	for set, rows := range out {
		gone[set] = slices.Clone(rows)
	}
	var faults error
	for set, limit := range s {
		if of := full.Set(set); of != nil && of.Stays {
			continue // whoever reads it there limits it
		}
		for _, rule := range limit.Rules {
			seen, err := keptBy(ctx, rule, kept, set, check)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err != nil {
				faults = fmt.Errorf("a rule on %s: %w", set, err)
			}
			gone[set] = without(gone[set], all.Tables[set], seen)
		}
	}
	belonging(gone, all, full)
	seen := s.Catalog(full)
	cuts := map[string]table.Restriction{}
	for _, set := range full.Sets {
		c := table.Restriction{Gone: s[set.Key].gone(), Rows: staying(gone[set.Key])}
		if left := seen.Set(set.Key); left != nil {
			for _, f := range left.Restricted.Fields {
				c.Fields = append(c.Fields, f.Key)
			}
		}
		cuts[set.Key] = c
	}
	return all.Restricted(cuts, before), faults
}

// keptBy lists the rows of a set that a rule keeps; none, if it cannot be carried out.
func keptBy(
	ctx context.Context, rule *view.Document, kept Kept, set string,
	check func(*view.Document) (*plan.Plan, error),
) ([]int32, error) {
	if rule.Records != set {
		return nil, fmt.Errorf("it is about %s", rule.Records)
	}
	p, err := check(rule)
	if err != nil || len(p.MissingParameters) > 0 {
		return nil, err
	}
	return kept(ctx, p)
}

// without marks the rows of a table that are not among those seen.
func without(gone []bool, t *table.Table, seen []int32) []bool {
	if t == nil {
		return nil
	}
	if gone == nil {
		gone = make([]bool, t.Rows)
	}
	at := 0
	for row := range gone {
		if at < len(seen) && int(seen[at]) == row {
			at++
		} else {
			gone[row] = true
		}
	}
	return gone
}

// belonging marks the rows that link to marked ones, until none is left to mark.
func belonging(gone map[string][]bool, snap *table.Snapshot, full *catalog.Catalog) {
	for changed := true; changed; {
		changed = false
		for _, set := range full.Sets {
			t := snap.Tables[set.Key]
			for _, l := range set.Links {
				to := gone[l.To]
				if to == nil {
					continue
				}
				mine := gone[set.Key]
				for row, target := range t.Link(l.Key).Rows {
					if target < 0 || !to[target] || mine != nil && mine[row] {
						continue
					}
					if mine == nil {
						mine = make([]bool, t.Rows)
						gone[set.Key] = mine
					}
					mine[row], changed = true, true
				}
			}
		}
	}
}

// staying lists the rows that are not marked; nil if nothing is.
func staying(gone []bool) []int32 {
	if gone == nil {
		return nil
	}
	rows := []int32{}
	for row, g := range gone {
		if !g {
			rows = append(rows, int32(row))
		}
	}
	return rows
}
