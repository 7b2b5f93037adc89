package formula

import "fmt"

// Reason is why a calculation gives a record no value.
type Reason int

// The reasons. A row that fails is blank.
const (
	DividedByZero Reason = iota
	TooLarge             // the exact value does not fit in 64 bits
	NoSuchNumber         // the root of a negative number, the logarithm of zero
	NoSuchDate
	NoSuchPlace // a position before the first character
	TooLong     // a text of more than MaxText characters
	SeveralCurrencies
	Reasons int = iota
)

// Words says a reason after "because".
func (r Reason) Words() string {
	return [...]string{
		"they divide by zero", "the result is too large", "there is no such number", "there is no such date",
		"there is no such place in the text",
		fmt.Sprintf("the text would have more than %d characters", MaxText),
		"the linked amounts are in several currencies, which are not put together",
	}[r]
}
