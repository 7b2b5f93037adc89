package records

import "fmt"

// TableName is a table as its database knows it.
type TableName struct{ Source, Schema, Table string }

// nameSets gives every table's record set a key of its own. A table that had one keeps it, so that
// a view never comes to another table of the same name; of new tables with one name, that of
// the first schema is called by it alone.
func nameSets(sources []*source, known map[TableName]string) map[TableName]string {
	taken := map[string]bool{}
	for _, key := range known {
		taken[key] = true
	}
	plain := map[string]bool{} // names that some table goes by
	for _, s := range sources {
		plain[s.name] = true
	}
	keys := map[TableName]string{}
	for _, s := range sources {
		key := known[s.full]
		if key == "" {
			key = freeKey(s, taken, plain)
		}
		s.set, taken[key], keys[s.full] = key, true, key
	}
	return keys
}

// freeKey is the shortest key that no other table goes by.
func freeKey(s *source, taken, plain map[string]bool) string {
	if !taken[s.name] {
		return s.name
	}
	stems := []string{s.full.Schema + "_" + s.name}
	if s.full.Source != "" {
		stems = []string{s.full.Source + "_" + s.name, s.full.Source + "_" + s.full.Schema + "_" + s.name}
	}
	for _, stem := range stems {
		if !taken[stem] && !plain[stem] {
			return stem
		}
	}
	stem := stems[len(stems)-1]
	for n := 2; ; n++ {
		if key := fmt.Sprintf("%s_%d", stem, n); !taken[key] && !plain[key] {
			return key
		}
	}
}
