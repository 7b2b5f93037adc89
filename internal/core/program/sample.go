// A program's results for a few rows, while its formula is written.

package program

import (
	"fmt"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
)

// Sample works a formula without fields out, for people.
func Sample(source string) (string, error) {
	f, err := formula.Check(source, func(name string) (formula.Found, error) {
		return formula.Found{}, fmt.Errorf("there is no field '%s'", name)
	})
	if err != nil {
		return "", err
	}
	p, err := Compile(f.Calculation)
	if err != nil {
		return "", err
	}
	cal := calendar.Calendar{Zone: time.UTC}
	out := p.Make(1)
	if err := p.Machine(nil, cal, NewFailures(1), nil).Run(out, 0, 1); err != nil {
		return "", err
	}
	w, field := format.NewWriter(format.People, cal), p.Type.Field("", "")
	result := ""
	switch {
	case out.Texts != nil:
		result = `"` + out.Texts[0] + `"`
	case out.Floats != nil:
		result = w.Float(out.Floats[0], field)
	default:
		result = w.Number(out.Ints[0], field)
	}
	if result == "" {
		result = "a blank"
	}
	return result, nil
}
