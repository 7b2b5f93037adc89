package access

import (
	"maps"

	"gavrik/internal/core/catalog"
)

// Lead is a link to a record set that stays in its database and is limited for the reader.
type Lead struct{ Set, Link, To string }

// stayingSets says which sets are limited, and which are hidden because of limited ones that stay.
type stayingSets struct{ limited, hidden map[string]bool }

// Staying is the policy over a load some record sets of which stay in their databases. Their rules are
// carried out there. Which records belong to one that is hidden there nobody here knows, so that sets whose
// records link to a limited one that stays are hidden as a whole: less is seen, and not more. That is but
// for the links that are known: of those, it was asked where they lead.
func (s Policy) Staying(full *catalog.Catalog, known map[Lead]bool) Policy {
	sets := s.stayingSets(full, known)
	if len(sets.hidden) == 0 {
		return s
	}
	out := maps.Clone(s)
	for set := range sets.hidden {
		out.Add(set, Restriction{Hidden: true})
	}
	return out
}

// Leads are the links of which it can be asked where they lead, known ones aside: what stays is not hidden
// itself.
func (s Policy) Leads(full *catalog.Catalog, known map[Lead]bool) (out []Lead) {
	sets := s.stayingSets(full, known)
	for _, set := range full.Sets {
		for _, l := range set.Links {
			to, lead := full.Set(l.To), Lead{set.Key, l.Key, l.To}
			if to != nil && to.Stays && sets.limited[l.To] && !sets.hidden[l.To] && !known[lead] {
				out = append(out, lead)
			}
		}
	}
	return out
}

func (s Policy) stayingSets(full *catalog.Catalog, known map[Lead]bool) stayingSets {
	out := stayingSets{map[string]bool{}, map[string]bool{}}
	for set, l := range s {
		out.limited[set] = len(l.Rules) > 0
	}
	for changed := true; changed; {
		changed = false
		for _, set := range full.Sets {
			for _, l := range set.Links {
				to := full.Set(l.To)
				if !out.limited[set.Key] && out.limited[l.To] {
					out.limited[set.Key], changed = true, true
				}
				unknown := out.limited[l.To] && to != nil && to.Stays && !known[Lead{set.Key, l.Key, l.To}]
				if !out.hidden[set.Key] && (out.hidden[l.To] || unknown) {
					out.hidden[set.Key], changed = true, true
				}
			}
		}
	}
	return out
}
