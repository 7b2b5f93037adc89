package view

import (
	"fmt"
	"strings"

	"gavrik/internal/core/code"
)

// Fault is one thing wrong with a document.
type Fault struct {
	// Path is its place: "columns[2].field".
	Path string
	Code code.Code
	// Message says what stands there, what is wanted and how to mend it.
	Message string
	// From and To bound the place within a formula, in characters; both are 0 for a
	// fault elsewhere.
	From, To int
}

// Faults is everything wrong with a document, in its order.
type Faults []Fault

// Error joins the faults, one to a line.
func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i, x := range f {
		lines[i] = x.Message
		if x.Path != "" {
			lines[i] = x.Path + ": " + x.Message
		}
	}
	return strings.Join(lines, "\n")
}

// MaxFaults is how many faults of one document are told.
const MaxFaults = 200

// Add adds a fault, unless there are enough.
func (f *Faults) Add(one Fault) {
	if len(*f) < MaxFaults {
		*f = append(*f, one)
	}
}

func (f *Faults) add(path string, c code.Code, format string, args ...any) {
	f.Add(Fault{Path: path, Code: c, Message: fmt.Sprintf(format, args...)})
}

// orNil is the faults as an error, or nil if there are none.
func (f Faults) orNil() error {
	if len(f) == 0 {
		return nil
	}
	return f
}
