package app

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/records/files"
)

// holds is a test whether some record of a set has a value in a field, exactly as it is written.
func (g *Scope) holds(set string, f catalog.Field) func(files.Value) bool {
	switch c := g.engine.Snapshot().Tables[set].Column(f.Key).(type) {
	case *table.Texts:
		there := make(map[string]bool, c.Dict.Len())
		for code := 1; code < c.Dict.Len(); code++ {
			there[c.Dict.Value(uint32(code))] = true
		}
		return func(v files.Value) bool { return there[v.Text] }
	case *table.Numbers:
		there := make(map[int64]bool, len(c.Values))
		for _, v := range c.Values {
			there[v] = true
		}
		return func(v files.Value) bool {
			n, ok := v.Number.At(f.Scale)
			return ok && there[n.Value]
		}
	}
	return func(files.Value) bool { return false }
}
