package view

import (
	"strings"

	"gavrik/internal/core/catalog"
)

// Choices are the words of an enum tag: those that it lists or, of one such as "@totals",
// those of a table.
func Choices(tag string) []string {
	table, ok := strings.CutPrefix(tag, "@")
	if !ok {
		return strings.Split(tag, ",")
	}
	var out []string
	switch table {
	case "types":
		for _, info := range catalog.Types() {
			out = append(out, string(info.Type))
		}
	case "totals":
		for _, info := range totals {
			if info.Fn != Records {
				out = append(out, string(info.Fn))
			}
		}
	case "operators":
		for _, info := range operators {
			out = append(out, string(info.Op))
		}
	case "operands":
		for _, o := range Operands() {
			out = append(out, string(o))
		}
	case "takes":
		for _, take := range Takes() {
			out = append(out, string(take))
		}
	case "beside":
		for _, take := range BesideTakes() {
			out = append(out, string(take))
		}
	case "figure-operators":
		for _, op := range FigureOps() {
			out = append(out, string(op))
		}
	default:
		panic("view: there is no table " + table)
	}
	return out
}
