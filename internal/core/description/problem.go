package description

import "fmt"

// Problem is a statement that does not hold: it is passed over where records are used, and refused
// where it is made.
type Problem struct {
	// Set and Path say which: "bookings", "fields.booked_at.type".
	Set, Path string
	// Message says what is wrong and how to mend it.
	Message string
}

func (p Problem) String() string {
	return fmt.Sprintf("%s (description of %s, %s)", p.Message, p.Set, p.Path)
}
