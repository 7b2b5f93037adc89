package result

import "strings"

// A group's path names it among all groups of a result: before every value, from the outermost
// group in, stands a separator. It is made of values as they are stored, as two groups may
// look alike: moments are shown to the minute.
const (
	// PathSeparator is ASCII's unit separator, which cannot be typed by accident. So a group
	// whose value is blank has a path, too.
	PathSeparator = "\x1f"
	// PathRest stands for the rest of a top level.
	PathRest = "\x1e"
	// PathHeld stands for the groups that are held back.
	PathHeld = "\x1d"
)

// AncestorOf is the path of the group of a level that a path lies in, or its own; empty for
// level 0.
func AncestorOf(path string, level int) string {
	at := 0
	for ; level > 0 && at < len(path); level-- {
		next := strings.Index(path[at+1:], PathSeparator)
		if next < 0 {
			return path
		}
		at += 1 + next
	}
	return path[:at]
}
