package plan

import (
	"strconv"
	"strings"
)

// ordinal says a percentile: 90th, 2.5th, 1st.
func ordinal(percent int64) string {
	whole := percent / PercentUnit
	if part := percent % PercentUnit; part != 0 {
		digits := strconv.FormatInt(PercentUnit+part, 10)[1:]
		return strconv.FormatInt(whole, 10) + "." + strings.TrimRight(digits, "0") + "th"
	}
	suffix := "th"
	if tens := whole / 10 % 10; tens != 1 {
		switch whole % 10 {
		case 1:
			suffix = "st"
		case 2:
			suffix = "nd"
		case 3:
			suffix = "rd"
		}
	}
	return strconv.FormatInt(whole, 10) + suffix
}
