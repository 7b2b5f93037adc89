package table

import (
	"cmp"
	"encoding/binary"
	"slices"
	"strings"
)

// sortTexts lists the codes in label order, the blank first, or returns nil if they
// are in it already: serial numbers mostly are. Each folded text is
// written as a key whose bytes compare as the texts do; eight bytes of the keys
// are compared at a time, as one number.
func sortTexts(given, folded lines) []uint32 {
	if inOrder(given, folded) {
		return nil
	}
	keys := naturalKeys(folded)
	order := make([]uint32, len(given.ends))
	for i := range order {
		order[i] = uint32(i)
	}
	s := &textSorter{keys, given, folded}
	s.sort(order[1:], make([]head, len(order)-1), 0)
	return order
}

func inOrder(given, folded lines) bool {
	for code := uint32(2); code < uint32(len(folded.ends)); code++ {
		c := CompareNatural(folded.at(code-1), folded.at(code))
		if c > 0 || c == 0 && given.at(code-1) > given.at(code) {
			return false
		}
	}
	return true
}

// naturalKeys writes every text as a key for CompareNatural's order: a run of
// digits becomes '0', the number of its digits without leading zeros, and these
// digits. All else stays as it is.
func naturalKeys(folded lines) lines {
	if !strings.ContainsAny(folded.text, "0123456789") {
		return folded
	}
	out := lines{ends: make([]uint32, len(folded.ends))}
	text := make([]byte, 0, len(folded.text)+len(folded.text)/4)
	for i := range folded.ends {
		s := folded.at(uint32(i))
		for j := 0; j < len(s); {
			if !isDigit(s[j]) {
				text = append(text, s[j])
				j++
				continue
			}
			start := skipZeros(s, j)
			j = skipDigits(s, start)
			text = append(text, '0')
			if n := j - start; n < 255 {
				text = append(text, byte(n))
			} else {
				text = binary.BigEndian.AppendUint32(append(text, 255), uint32(n))
			}
			text = append(text, s[start:j]...)
		}
		out.ends[i] = uint32(len(text))
	}
	out.text = string(text)
	return out
}

// head is eight bytes of a key and the code it belongs to.
type head struct {
	bytes uint64
	code  uint32
}

type textSorter struct{ keys, given, folded lines }

// fewTexts is up to how many texts are compared whole.
const fewTexts = 12

// sort orders codes whose keys are the same up to depth. heads is room for as
// many.
func (s *textSorter) sort(codes []uint32, heads []head, depth int) {
	if len(codes) <= fewTexts {
		slices.SortFunc(codes, s.compare)
		return
	}
	more := false
	for i, code := range codes {
		key := s.keys.at(code)
		heads[i] = head{eightBytes(key, depth), code}
		more = more || len(key) > depth
	}
	if !more {
		slices.SortFunc(codes, s.compare)
		return
	}
	slices.SortFunc(heads, func(a, b head) int { return cmp.Compare(a.bytes, b.bytes) })
	for i, h := range heads {
		codes[i] = h.code
	}
	for lo := 0; lo < len(heads); {
		hi := lo + 1
		for hi < len(heads) && heads[hi].bytes == heads[lo].bytes {
			hi++
		}
		if hi-lo > 1 {
			s.sort(codes[lo:hi], heads[lo:hi], depth+8)
		}
		lo = hi
	}
}

// compare orders two texts by their keys, then as CompareNatural and the label
// order break ties.
func (s *textSorter) compare(a, b uint32) int {
	if c := strings.Compare(s.keys.at(a), s.keys.at(b)); c != 0 {
		return c
	}
	if c := strings.Compare(s.folded.at(a), s.folded.at(b)); c != 0 {
		return c
	}
	return strings.Compare(s.given.at(a), s.given.at(b))
}

// eightBytes reads a key from an offset as a number that compares as the bytes
// do; a key that ends is filled with zeros.
func eightBytes(key string, from int) uint64 {
	var b [8]byte
	if from < len(key) {
		copy(b[:], key[from:])
	}
	return binary.BigEndian.Uint64(b[:])
}
