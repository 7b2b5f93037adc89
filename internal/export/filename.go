package export

import "strings"

// FileName keeps of a view's name what every system takes in the name of a file.
func FileName(name string) string {
	out := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
			return '-'
		}
		return r
	}, name)
	return strings.Trim(out, " .")
}
