package plan

import (
	"fmt"
	"math"
	"math/big"
	"regexp"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
)

var (
	plainNumber   = regexp.MustCompile(`^-?(\d+|\d{1,3}(,\d{3})+)?(\.\d*)?$`)
	clockDuration = regexp.MustCompile(`^(-?)(\d{1,7}):([0-5]\d)(?::([0-5]\d))?$`)
	unitDuration  = regexp.MustCompile(
		`^(-?)(\d{1,12}(?:\.\d{1,6})?) ?(d|days?|h|hours?|m|min|minutes?|s|sec|seconds?)$`,
	)
)

// ParseNumber reads a decimal number as a value scaled by ten to scale. A number
// with more decimals than that lies between two values; then the interval is
// turned round: Hi is the value below it and Lo the one above.
func ParseNumber(s string, scale int) (Interval, error) {
	r, err := parseRat(s)
	if err != nil {
		return Interval{}, err
	}
	r.Mul(r, new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil)))
	floor, rest := new(big.Int).DivMod(r.Num(), r.Denom(), new(big.Int))
	if !floor.IsInt64() || floor.Int64() <= math.MinInt64+1 || floor.Int64() == math.MaxInt64 {
		return Interval{}, fmt.Errorf("%q is too large to compare with", s)
	}
	out := Interval{floor.Int64(), floor.Int64()}
	if rest.Sign() != 0 {
		out.Lo++
	}
	return out, nil
}

func parseRat(s string) (*big.Rat, error) {
	clean := strings.ReplaceAll(strings.TrimSpace(s), "−", "-")
	if !plainNumber.MatchString(clean) || !strings.ContainsAny(clean, "0123456789") {
		return nil, fmt.Errorf("%q is not a number; write it as 1234.50", s)
	}
	r, ok := new(big.Rat).SetString(strings.ReplaceAll(clean, ",", ""))
	if !ok || len(clean) > 60 {
		return nil, fmt.Errorf("%q is not a number that can be read; write it as 1234.50", s)
	}
	return r, nil
}

// ParseDuration reads hours and minutes ("1:30", "0:05:30") or a number with a
// unit ("90 min", "2 days").
func ParseDuration(s string) (calendar.Micros, error) {
	s = strings.ReplaceAll(strings.TrimSpace(s), "−", "-")
	if m := clockDuration.FindStringSubmatch(s); m != nil {
		h, _ := strconv.ParseInt(m[2], 10, 64)
		minutes, _ := strconv.ParseInt(m[3], 10, 64)
		seconds, _ := strconv.ParseInt("0"+m[4], 10, 64)
		return signed(m[1], h*calendar.Hour+minutes*calendar.Minute+seconds*calendar.Second), nil
	}
	if m := unitDuration.FindStringSubmatch(s); m != nil {
		unit := map[byte]calendar.Micros{
			'd': calendar.DayLen, 'h': calendar.Hour, 'm': calendar.Minute, 's': calendar.Second,
		}[m[3][0]]
		millionths, err := ParseNumber(m[2], 6)
		if err == nil && millionths.Lo > math.MaxInt64/(unit/1_000_000) {
			err = fmt.Errorf("%q is too large to compare with", s)
		}
		return signed(m[1], millionths.Lo*(unit/1_000_000)), err
	}
	return 0, fmt.Errorf("%q is not a duration; write it as 1:30 or 90 min", s)
}

func signed(minus string, d calendar.Micros) calendar.Micros {
	if minus == "-" {
		return -d
	}
	return d
}

// ParseFloat reads a number to compare approximate values with.
func ParseFloat(s string) (float64, error) {
	clean := strings.ReplaceAll(strings.ReplaceAll(strings.TrimSpace(s), "−", "-"), ",", "")
	x, err := strconv.ParseFloat(clean, 64)
	if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
		return 0, fmt.Errorf("%q is not a number; write it as 1234.5", s)
	}
	return x, nil
}
