package fields

import (
	"encoding/base64"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/zeebo/xxh3"

	"gavrik/internal/core/table"
)

// Version says what was read: where in a snapshot, and a digest of what it says there. Two processes that
// read the same of the same records come to the same, and one can tell of the other's whether it holds.
func (r *Reads) Version(s *table.Snapshot, all Places) string {
	r.mu.Lock()
	defer r.mu.Unlock()
	var marks []byte
	var read []place
	for i, at := range all {
		if _, ok := r.all[at]; !ok {
			continue
		}
		for len(marks) <= i/8 {
			marks = append(marks, 0)
		}
		marks[i/8] |= 1 << (i % 8)
		read = append(read, at)
	}
	return digestOf(read, s) + "." + base64.RawURLEncoding.EncodeToString(marks)
}

// VersionHolds says whether what was read when a version was written says the same in a snapshot.
func VersionHolds(version string, s *table.Snapshot, all Places) bool {
	digest, text, _ := strings.Cut(version, ".")
	marks, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(marks) == 0 {
		return false
	}
	var read []place
	for i := range 8 * len(marks) {
		if marks[i/8]>>(i%8)&1 == 0 {
			continue
		}
		if i >= len(all) {
			return false // of other record sets
		}
		read = append(read, all[i])
	}
	return digest == digestOf(read, s)
}

// digestOf counts the places in as well: fields that were added move those behind them.
func digestOf(read []place, s *table.Snapshot) string {
	h := xxh3.New()
	for _, at := range read {
		// a digest does not fail
		_, _ = fmt.Fprintf(h, "%q %q %q %x\n", at.set, at.field, at.link, at.of(s, content.Digest))
	}
	return fmt.Sprintf("%016x", h.Sum64())
}

// Places are all that can be read in a snapshot, in an order that follows from the names alone.
type Places []place

// PlacesOf are those of a snapshot.
func PlacesOf(s *table.Snapshot) (out Places) {
	for _, set := range slices.Sorted(maps.Keys(s.Tables)) {
		out = append(out, place{set: set})
		for _, field := range s.Tables[set].Fields() {
			out = append(out, place{set: set, field: field})
		}
		for _, link := range s.Tables[set].Ways() {
			out = append(out, place{set: set, link: link})
		}
	}
	return out
}
