package catalog

import (
	"fmt"
	"slices"
)

// Differences say in words what has become of record sets, fields and links from one catalog to a later one.
// Files that people brought in are told of elsewhere.
func Differences(before, after *Catalog) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	for _, was := range before.Sets {
		if is := after.Set(was.Key); is == nil && !was.File {
			say("The record set “%s” (%s) is gone.", was.Label, was.Key)
		}
	}
	for _, is := range after.Sets {
		was := before.Set(is.Key)
		switch {
		case is.File:
			continue
		case was == nil:
			say("There is a new record set, “%s” (%s).", is.Label, is.Key)
			continue
		}
		for _, f := range was.Fields {
			now := is.Field(f.Key)
			switch {
			case now == nil:
				say("%s: the field “%s” (%s) is gone.", is.Label, f.Label, f.Key)
			case now.Type != f.Type:
				say("%s: “%s” (%s) is %s now, and was %s.", is.Label, now.Label, f.Key, now.Type.Word(), f.Type.Word())
			case now.Currency != f.Currency || now.CurrencyBy != f.CurrencyBy:
				say("%s: “%s” (%s) is in another currency now.", is.Label, now.Label, f.Key)
			}
		}
		for _, f := range is.Fields {
			if was.Field(f.Key) == nil {
				say("%s: there is a new field, “%s” (%s).", is.Label, f.Label, f.Key)
			}
		}
		for _, l := range was.Links {
			if now := is.Link(l.Key); now == nil {
				say("%s: the link “%s” (%s) is gone.", is.Label, l.Label, l.Key)
			} else if now.To != l.To || !slices.Equal(now.By, l.By) {
				say("%s: the link “%s” (%s) leads elsewhere now.", is.Label, l.Label, l.Key)
			}
		}
		for _, l := range is.Links {
			if was.Link(l.Key) == nil {
				say("%s: there is a new link, “%s” (%s).", is.Label, l.Label, l.Key)
			}
		}
	}
	return out
}
