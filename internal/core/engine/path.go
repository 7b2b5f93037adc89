package engine

import (
	"strconv"
	"strings"

	"gavrik/internal/core/result"
)

// pathOf is the path of a node; that of all records is empty.
func (t *tree) pathOf(i int32) string {
	path := ""
	for ; i > 0; i = t.nodes[i].parent {
		path = result.PathSeparator + t.valueOf(i) + path
	}
	return path
}

// valueOf tells a node from its siblings.
func (t *tree) valueOf(i int32) string {
	n := t.nodes[i]
	k := t.levels[n.level-1]
	switch {
	case n.joined > 0:
		return result.PathRest
	case n.key == 0:
		return ""
	case k.dict != nil:
		return k.dict.Value(n.key)
	case k.floats != nil:
		return strconv.FormatFloat(k.float(n.key), 'g', -1, 64)
	}
	return strconv.FormatInt(k.number(n.key), 10)
}

// find returns the nodes of group paths. A path that no group has any longer is
// passed over: the groups may have changed under the reader.
//
// Each group is looked at once, however many paths there are.
func (r *Result) find(paths []string) map[int32]bool {
	out := map[int32]bool{}
	r.tree.findWithin(0, paths, out)
	return out
}

// findWithin adds the nodes within a parent that paths, read from the parent on, lead to.
func (t *tree) findWithin(parent int32, paths []string, out map[int32]bool) {
	further := map[string][]string{} // by the next value
	for _, p := range paths {
		if rest, ok := strings.CutPrefix(p, result.PathSeparator); ok {
			value := rest
			if end := strings.Index(rest, result.PathSeparator); end >= 0 {
				value = rest[:end]
			}
			further[value] = append(further[value], rest[len(value):])
		}
	}
	if len(further) == 0 {
		return
	}
	end := t.nodes[parent].next
	for i := parent + 1; i < end && len(further) > 0; i = t.nodes[i].next {
		value := t.valueOf(i)
		rests, ok := further[value]
		if !ok {
			continue
		}
		delete(further, value)
		for _, rest := range rests {
			if rest == "" {
				out[i] = true
			}
		}
		t.findWithin(i, rests, out)
	}
}

// nodeOf finds the node of a path, 0 for the empty one; -1 if there is none.
func (t *tree) nodeOf(path string) int32 {
	if path != "" && !strings.HasPrefix(path, result.PathSeparator) {
		return -1
	}
	at := int32(0)
	for _, value := range strings.Split(path, result.PathSeparator)[1:] {
		if at = t.child(at, value); at < 0 {
			return -1
		}
	}
	return at
}

func (t *tree) child(parent int32, value string) int32 {
	end := t.nodes[parent].next
	for i := parent + 1; i < end; i = t.nodes[i].next {
		if t.valueOf(i) == value {
			return i
		}
	}
	return -1
}
