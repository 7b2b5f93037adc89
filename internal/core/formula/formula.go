// Package formula is the formula language: spreadsheet arithmetic after the
// OpenFormula standard (OASIS OpenDocument 1.3, part 4), over fields.
//
// A formula is scanned, parsed, checked against the fields it names and compiled
// to a program that runs block by block over typed slices. Whole numbers and
// decimals are exact under + − × and ROUND; division, roots and powers give
// approximate numbers. A blank in arithmetic gives a blank.
package formula

import (
	"errors"
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Limits on a formula. They keep a pasted accident from costing more than a
// message.
const (
	MaxLength = 10_000 // characters
	maxDepth  = 1000   // of operators, functions and brackets within each other
	// maxTotals bounds the totals that one formula is worked out from.
	maxTotals = 100
	// maxScale is how many decimals an exact number may have.
	maxScale = 18
)

// Error is a fault at a place of the source.
type Error struct {
	// From and To bound the place, in characters from 0, To left out.
	From, To int
	Code     code.Code
	Message  string
}

func (e *Error) Error() string { return fmt.Sprintf("at character %d: %s", e.From+1, e.Message) }

// Type is what the values of an expression are.
type Type struct {
	Type     catalog.Type
	Scale    int    // decimals kept exactly
	Approx   bool   // binary floating point
	Currency string // of money; empty if it names none
	// CurrencyBy is the path of the field that names each amount's currency, if there is
	// one. What is made of such amounts keeps it, whatever it is shown as, until a
	// division takes the currency out.
	CurrencyBy string
}

// TypeOf is the type of a field's values.
func TypeOf(f catalog.Field) Type {
	return Type{Type: f.Type, Scale: f.Scale, Approx: f.Approx, Currency: f.Currency, CurrencyBy: f.CurrencyBy}
}

// typeOfRef is the type of a field's values, as seen from the records at hand.
func typeOfRef(r catalog.Ref) Type {
	t := TypeOf(r.Field)
	t.CurrencyBy = r.CurrencyPath()
	return t
}

// Field describes values of the type under a key and a label.
func (t Type) Field(key, label string) catalog.Field {
	return catalog.Field{Key: key, Label: label, Type: t.Type, Scale: t.Scale, Approx: t.Approx, Currency: t.Currency, CurrencyBy: t.CurrencyBy}
}

// Word names the type in a message.
func (t Type) Word() string { return t.Type.Word() }

// plainNumber says whether arithmetic takes the values as numbers. Durations have
// rules of their own.
func (t Type) plainNumber() bool { return t.Type.Numeric() && t.Type != catalog.Duration }

// Total is a total within a formula: its function over the values of a program, one
// for each record. A count of records has no program.
type Total struct {
	Fn  view.Fn
	Arg *Program
	// Percent is that of a percentile, in millionths of one percent.
	Percent int64
}

// typ is what the total's figures are.
func (t Total) typ() Type {
	if t.Arg == nil {
		return wholeType
	}
	return TypeOf(t.Fn.Result(t.Arg.Type.Field("", "")))
}

// Formula is a checked formula. Without totals, Program gives a value for each
// record; with them, a value for each group, its inputs being the totals.
type Formula struct {
	Source string
	// Tidy is the source without what does not matter; see Tidy.
	Tidy    string
	Program *Program
	Totals  []Total
}

// PerTotal says whether the formula is worked out from totals.
func (f *Formula) PerTotal() bool { return len(f.Totals) > 0 }

func (f *Formula) types() []Type {
	out := make([]Type, len(f.Totals))
	for i, t := range f.Totals {
		out[i] = t.typ()
	}
	return out
}

// Found is what a name in a formula means: a field or, if Totals is set, another
// formula of totals.
type Found struct {
	catalog.Ref
	Totals *Formula
	// Least is how many characters a text of it has at least.
	Least int
}

// ErrDoubt says that a name could be two fields.
var ErrDoubt = errors.New("the name could be two fields")

// Lookup finds what a name in a formula means. Its error is a message for the author; it is
// an ErrDoubt where the name has two meanings.
type Lookup func(name string) (Found, error)

// Compile checks a formula. The error is an *Error.
func Compile(source string, lookup Lookup) (*Formula, error) {
	tree, err := parse(source)
	if err != nil {
		return nil, err
	}
	c := &checker{lookup: lookup}
	c.perTotal = c.hasTotal(tree)
	f := &Formula{Source: source, Tidy: tree.String()}
	f.Program, err = c.program(tree, true)
	if err != nil {
		return nil, err
	}
	f.Totals = c.totals
	return f, nil
}

// Plain returns the one field that a program reads as it is.
func (p *Program) Plain() (catalog.Ref, bool) {
	if n, ok := p.root.(*input); ok && len(p.Inputs) == 1 {
		return p.Inputs[n.index], true
	}
	return catalog.Ref{}, false
}
