package access

import (
	"encoding/json"
	"slices"

	"gavrik/internal/core/view"
)

// Use is a field that something was made of or, without a field, a record set on the way.
type Use struct {
	Set   string `json:"set"`
	Field string `json:"field,omitempty"`
}

// Within says whether somebody of a policy may see what was made under another one of some fields:
// nothing that the policy keeps from her is in it. Rules on records may reach any set that
// belongs to theirs, so each of hers has to have been one there, whatever it was made of.
func (s Policy) Within(made Policy, of []Use) bool {
	for set, mine := range s {
		for _, rule := range mine.Rules {
			same := func(other *view.Document) bool { return sameRule(rule, other) }
			if !slices.ContainsFunc(made[set].Rules, same) {
				return false
			}
		}
	}
	for _, u := range of {
		mine, then := s[u.Set], made[u.Set]
		if (mine.gone() || mine.Unsaid) && !then.gone() && !then.Unsaid {
			return false
		}
		if u.Field != "" && slices.Contains(mine.Fields, u.Field) && !slices.Contains(then.Fields, u.Field) {
			return false
		}
	}
	return true
}

// sameRule says whether two rules keep the same records, as far as their documents tell.
func sameRule(a, b *view.Document) bool {
	x, err := json.Marshal(a)
	if err != nil {
		return false
	}
	y, err := json.Marshal(b)
	return err == nil && string(x) == string(y)
}
