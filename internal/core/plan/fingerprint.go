package plan

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
)

// writtenDown is a part of a plan, which is plain data, as text that tells it from others.
func writtenDown(part any) string {
	text, err := json.Marshal(part)
	if err != nil {
		panic("plan: a part of a plan cannot be written down: " + err.Error())
	}
	return string(text)
}

// Fingerprint tells plans of one document apart that were made with different
// definitions, or that look at the clock. It is short, and no text.
func (p *Plan) Fingerprint() string {
	all := ""
	for _, key := range slices.Sorted(maps.Keys(p.Derived)) {
		d := p.Derived[key]
		f := d.Ref.Field
		all += fmt.Sprintf(
			"%s\x00%s\x00%s\x00%s %d %t %s %s\x01", key, d.Identity, d.Ref.Label, f.Type, f.Scale, f.Approx,
			f.Currency, f.CurrencyBy,
		)
	}
	for _, other := range p.Others() {
		all += other.Records + "\x00" + other.Fingerprint() + "\x02"
	}
	if all == "" {
		return ""
	}
	return digest(all)
}
