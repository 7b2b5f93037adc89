package formula

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/code"
)

// Error is a fault at a place of the source. It wraps the sentinel of its code.
type Error struct {
	// From and To bound the place, in characters from 0, To left out.
	From, To int
	Code     code.Code
	Message  string // for the author: what is wrong, and how to mend it
}

func (e *Error) Error() string { return fmt.Sprintf("at character %d: %s", e.From+1, e.Message) }

// Unwrap returns the sentinel of the error's code.
func (e *Error) Unwrap() error { return sentinels[e.Code] }

// What can be wrong with a formula.
var (
	ErrForm      = errors.New("formula: it cannot be read")
	ErrName      = errors.New("formula: a name is not known")
	ErrDoubt     = errors.New("formula: the name could be two fields")
	ErrArguments = errors.New("formula: too few or too many arguments")
	ErrType      = errors.New("formula: values that do not go together")
	ErrSize      = errors.New("formula: too large")
	ErrDecimals  = errors.New("formula: the number of decimals")
	// ErrReported is what a Lookup answers for a field with a fault of its own, which is
	// reported already: the formula that names it has no result, and no fault.
	ErrReported = errors.New("formula: a field has a fault of its own")
)

var sentinels = map[code.Code]error{
	code.FormulaForm: ErrForm, code.FormulaName: ErrName, code.FormulaDoubt: ErrDoubt,
	code.FormulaArguments: ErrArguments, code.FormulaType: ErrType, code.FormulaSize: ErrSize,
}

// Errors are all faults of a formula, in the order of their places.
type Errors []*Error

func (e Errors) Error() string {
	words := make([]string, len(e))
	for i, one := range e {
		words[i] = one.Error()
	}
	return strings.Join(words, "; ")
}

// Unwrap lets errors.As find the first one.
func (e Errors) Unwrap() []error {
	out := make([]error, len(e))
	for i, one := range e {
		out[i] = one
	}
	return out
}

func (e Errors) sort() {
	slices.SortStableFunc(e, func(a, b *Error) int { return cmp.Or(a.From-b.From, a.To-b.To) })
}
