package access

import (
	"maps"

	"gavrik/internal/core/catalog"
)

// Staying is the policy over a load some record sets of which stay in their databases. Their rules are
// carried out there. Which records belong to one that is hidden there nobody here knows, so that sets whose
// records link to a limited one that stays are hidden as a whole: less is seen, and not more.
func (s Policy) Staying(full *catalog.Catalog) Policy {
	limited := map[string]bool{}
	for set, l := range s {
		limited[set] = len(l.Rules) > 0
	}
	hidden := map[string]bool{}
	for changed := true; changed; {
		changed = false
		for _, set := range full.Sets {
			for _, l := range set.Links {
				to := full.Set(l.To)
				if !limited[set.Key] && limited[l.To] {
					limited[set.Key], changed = true, true
				}
				if !hidden[set.Key] && (hidden[l.To] || limited[l.To] && to != nil && to.Stays) {
					hidden[set.Key], changed = true, true
				}
			}
		}
	}
	if len(hidden) == 0 {
		return s
	}
	out := maps.Clone(s)
	for set := range hidden {
		out.Add(set, Restriction{Hidden: true})
	}
	return out
}
