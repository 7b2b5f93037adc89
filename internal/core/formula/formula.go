// Package formula is the formula language: spreadsheet arithmetic after the
// OpenFormula standard (OASIS OpenDocument 1.3, part 4), over fields.
//
// A formula is scanned, parsed, and checked against the fields it names. What comes out is
// an Expr, a typed tree that is plain data: package program compiles it to column programs,
// and another reader may say it in another language. Whole numbers and decimals are exact
// under + − × and ROUND; division, roots and powers give approximate numbers. A blank in
// arithmetic gives a blank.
package formula

import (
	"gavrik/internal/core/catalog"
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
	// MaxText is how many characters a text may have that a formula makes: as many as the
	// cells of spreadsheets hold.
	MaxText = 32_767
)

// Type is what the values of an expression are.
type Type struct {
	Type     catalog.Type
	Scale    int    `json:",omitempty"` // decimals kept exactly
	Approx   bool   `json:",omitempty"` // binary floating point
	Currency string `json:",omitempty"` // of money; empty if it names none
	// CurrencyBy is the path of the field that names each amount's currency, if there is
	// one. What is made of such amounts keeps it, whatever it is shown as, until a
	// division takes the currency out.
	CurrencyBy string `json:",omitempty"`
}

var (
	truthType  = Type{Type: catalog.YesNo}
	wholeType  = Type{Type: catalog.Whole}
	textType   = Type{Type: catalog.Text}
	dateType   = Type{Type: catalog.Date}
	momentType = Type{Type: catalog.DateTime}
	lengthType = Type{Type: catalog.Duration, Scale: 1}
	floatType  = Type{Type: catalog.Decimal, Approx: true}
)

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
	return catalog.Field{
		Key: key, Label: label, Type: t.Type, Scale: t.Scale, Approx: t.Approx,
		Currency: t.Currency, CurrencyBy: t.CurrencyBy,
	}
}

// Word names the type in a message.
func (t Type) Word() string { return t.Type.Word() }

// plainNumber says whether arithmetic takes the values as numbers. Durations have
// rules of their own.
func (t Type) plainNumber() bool { return t.Type.Numeric() && t.Type != catalog.Duration }

// Formula is a checked formula. Without totals, Calculation gives a value for each
// record; with them, a value for each group, its inputs being the totals.
type Formula struct {
	Source string
	// Tidy is the source without what does not matter; see Tidy.
	Tidy        string
	Calculation *Calculation
	Totals      []Total
}

// PerTotal says whether the formula is worked out from totals.
func (f *Formula) PerTotal() bool { return len(f.Totals) > 0 }

// typ is what the total's figures are.
func (t Total) typ() Type {
	if t.Arg == nil {
		return wholeType
	}
	return TypeOf(t.Fn.Result(t.Arg.Type().Field("", "")))
}

// Found is what a name in a formula means: a field or, if Totals is set, another
// formula of totals.
type Found struct {
	catalog.Ref
	Totals *Formula
	// Least is how many characters a text of it has at least.
	Least int
}

// Lookup finds what a name in a formula means. Its error is a message for the author; it is
// an ErrDoubt where the name has two meanings, an ErrReported where the field has a fault of
// its own.
type Lookup func(name string) (Found, error)

// Check checks a formula. The error is Errors, and complete; or ErrReported, if nothing is
// wrong but what Lookup reported elsewhere.
func Check(source string, lookup Lookup) (*Formula, error) {
	syntax, err := parse(source)
	if err != nil {
		return nil, err
	}
	c := &checker{lookup: lookup}
	c.perTotal = c.hasTotal(syntax)
	calculation := c.calculation(syntax, true)
	if len(c.errors) > 0 {
		c.errors.sort()
		return nil, c.errors
	}
	if c.silent {
		return nil, ErrReported
	}
	return &Formula{Source: source, Tidy: syntax.String(), Calculation: calculation, Totals: c.totals}, nil
}
