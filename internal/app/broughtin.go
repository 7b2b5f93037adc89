package app

import (
	"slices"

	"gavrik/internal/store"
)

// BroughtInAs is how a record set was brought in; nil if it was not.
func (d *Agreement) BroughtInAs(set string) *store.BroughtIn {
	i := slices.IndexFunc(d.BroughtIn, func(b store.BroughtIn) bool { return b.Set == set })
	if i < 0 {
		return nil
	}
	return &d.BroughtIn[i]
}
