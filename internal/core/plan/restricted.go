package plan

import (
	"errors"
	"fmt"

	"gavrik/internal/core/catalog"
)

// restricted says whether the reader may not see what a path leads to, or what it is made
// of, and what a column of it would be called. The error is nil if she may, or if there
// is no such field at all.
func (k *checker) restricted(path string) (label string, held *catalog.RestrictedError) {
	if d := k.derived(path); d != nil {
		return d.Ref.Label, d.restricted
	}
	_, err := k.catalog.Resolve(k.set, path)
	if errors.As(err, &held) {
		return held.Label, held
	}
	return "", nil
}

// madeOf says why a calculated field or a bucket cannot be used.
func madeOf(d *Derived, held *catalog.RestrictedError) string {
	if d.Ref.Label == held.Label {
		return held.Error()
	}
	return fmt.Sprintf("%s is made of something that is not shown to you: %s", d.Ref.Label, held)
}
