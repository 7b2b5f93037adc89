// Groups by their paths.

package grouping

import (
	"strconv"
	"strings"

	"gavrik/internal/core/result"
)

// PathOf is the path of a node; that of all records is empty.
func (t *Tree) PathOf(i int32) string {
	path := ""
	for ; i > 0; i = t.Nodes[i].Parent {
		path = result.PathSeparator + t.valueOf(i) + path
	}
	return path
}

// valueOf tells a node from its siblings.
func (t *Tree) valueOf(i int32) string {
	n := t.Nodes[i]
	k := t.Levels[n.Level-1]
	switch {
	case n.Joined > 0:
		return result.PathRest
	case n.Key == 0:
		return ""
	case k.Dict != nil:
		return k.Dict.Value(n.Key)
	case k.Floats != nil:
		return strconv.FormatFloat(k.Float(n.Key), 'g', -1, 64)
	}
	return strconv.FormatInt(k.Number(n.Key), 10)
}

// Find returns the nodes of group paths. A path that no group has any longer is
// passed over: the groups may have changed under the reader.
//
// Each group is looked at once, however many paths there are.
func (t *Tree) Find(paths []string) map[int32]bool {
	out := map[int32]bool{}
	t.findWithin(0, paths, out)
	return out
}

// findWithin adds the nodes within a parent that paths, read from the parent on, lead to.
func (t *Tree) findWithin(parent int32, paths []string, out map[int32]bool) {
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
	end := t.Nodes[parent].Next
	for i := parent + 1; i < end && len(further) > 0; i = t.Nodes[i].Next {
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

// NodeOf finds the node of a path, 0 for the empty one; -1 if there is none.
func (t *Tree) NodeOf(path string) int32 {
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

func (t *Tree) child(parent int32, value string) int32 {
	end := t.Nodes[parent].Next
	for i := parent + 1; i < end; i = t.Nodes[i].Next {
		if t.valueOf(i) == value {
			return i
		}
	}
	return -1
}
