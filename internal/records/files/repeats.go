package files

import (
	"hash/maphash"
	"strings"
)

// keyCounter finds keys that repeat by what they hash to, so that not all are kept.
type keyCounter struct {
	seed maphash.Seed
	seen map[uint64]bool
	n    int
	some []string
}

func (k *keyCounter) add(row Row, c *Converter) {
	var parts []string
	for _, at := range c.by {
		parts = append(parts, strings.TrimSpace(row.Cells[c.columns[at].place]))
	}
	whole := strings.Join(parts, "\x00")
	h := maphash.String(k.seed, whole)
	if k.seen[h] {
		if k.n++; len(k.some) < shown {
			k.some = append(k.some, cut(strings.ReplaceAll(whole, "\x00", ", ")))
		}
	}
	if len(k.seen) < maxKeysSeen {
		k.seen[h] = true
	}
}

// maxKeysSeen is how many keys a look remembers; reading the file finds all that repeat.
const maxKeysSeen = 1 << 20
