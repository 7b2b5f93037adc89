// Package plan is a view document resolved against a catalog: every field, type
// and operand known, every relative date worked out. A plan is data. It holds no
// pointers into a snapshot and no functions, so that another reader than package
// engine can carry it out.
package plan

import (
	"fmt"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// Plan is a checked view.
type Plan struct {
	Records   string
	One, Many string // the records in running text
	Filter    *Node  // nil keeps all
	Columns   []Column
	Measures  []Measure
	Groups    []Group
	Sort      []Sort
	// Calendar is the setting that dates are grouped and written in.
	Calendar calendar.Calendar
}

// Kind says how a node of the filter decides.
type Kind string

// The kinds of nodes.
const (
	All  Kind = "all"
	Any  Kind = "any"
	None Kind = "none"
	Leaf Kind = "test"
)

// Node is one step of the filter.
type Node struct {
	// Path is the condition's place in the document: "filter.all[1]".
	Path     string
	Kind     Kind
	Children []*Node
	Test     *Test
}

// Column is one column as shown. A document's column with several totals
// becomes several of these, of which only the first shows the records' values.
type Column struct {
	// Doc is the index among the document's columns.
	Doc     int
	Ref     catalog.Ref
	Heading string
	Width   int
	Values  bool
	Measure int // index among Measures, or -1
}

// Measure is one total to work out for every group.
type Measure struct {
	Ref   catalog.Ref
	Fn    view.Fn
	Label string
	// Once says that a linked record counts once per group however many rows
	// lead to it.
	Once bool
}

// Result describes the measure's values as a field: a sum is of its field's
// type, an average has at least two decimals, a count is a whole number.
func (m Measure) Result() catalog.Field {
	f := m.Ref.Field
	switch m.Fn {
	case view.Distinct, view.FilledN, view.Blanks:
		return catalog.Field{Key: f.Key, Label: m.Label, Type: catalog.Whole}
	case view.Average, view.Median:
		if f.Type == catalog.Whole {
			f.Type = catalog.Decimal
		}
		if f.Type != catalog.Duration && !f.Approx {
			f.Scale = max(f.Scale, 2)
		}
	}
	f.Label = m.Label
	return f
}

// Group is one level of groups.
type Group struct {
	Ref   catalog.Ref
	Unit  calendar.Unit // empty: by value
	Order Order
}

// Label names the level: "Route", "Month opened".
func (g Group) Label() string {
	if g.Unit == "" {
		return g.Ref.Label
	}
	stem, _ := g.Ref.Stem()
	unit := g.Unit.Word()
	return strings.ToUpper(unit[:1]) + unit[1:] + " " + catalog.LowerFirst(stem)
}

// Order is how the groups of a level follow each other.
type Order struct {
	By      string // one of view.ByLabel, ByCount and ByTotal
	Measure int    // with ByTotal
	Desc    bool
}

// Sort is one key of the order of records.
type Sort struct {
	Ref  catalog.Ref
	Desc bool
}

// Fault is one thing wrong with a document.
type Fault struct {
	// Path is its place: "columns[2].field".
	Path    string
	Message string
}

// Faults is everything wrong with a document, in its order.
type Faults []Fault

// Error joins the faults, one to a line.
func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i, x := range f {
		lines[i] = x.Path + ": " + x.Message
	}
	return strings.Join(lines, "\n")
}

// Limits on the size of a view.
const (
	MaxColumns = 200
	MaxLevels  = 10
)

// Check resolves a document. The error is Faults, and complete: one run tells an
// author everything there is to mend.
func Check(doc *view.Document, c *catalog.Catalog, cal calendar.Calendar) (*Plan, error) {
	k := &checker{catalog: c, doc: doc, plan: &Plan{Records: doc.Records, Calendar: cal}}
	if err := doc.Check(); err != nil {
		return nil, Faults{{Path: "gavrik", Message: err.Error()}}
	}
	set := c.Set(doc.Records)
	if set == nil {
		_, err := c.Resolve(doc.Records, "")
		return nil, Faults{{Path: "records", Message: err.Error()}}
	}
	k.plan.One, k.plan.Many = set.One, set.Many
	if doc.Filter != nil {
		k.plan.Filter = k.node(doc.Filter, "filter")
	}
	k.columns()
	k.groups()
	k.sorts()
	if len(k.faults) > 0 {
		return nil, k.faults
	}
	return k.plan, nil
}

type checker struct {
	catalog *catalog.Catalog
	doc     *view.Document
	plan    *Plan
	faults  Faults
}

func (k *checker) fault(path, format string, args ...any) {
	k.faults = append(k.faults, Fault{Path: path, Message: fmt.Sprintf(format, args...)})
}

// ref resolves a field path, or reports why not.
func (k *checker) ref(path, at string) (catalog.Ref, bool) {
	if path == "" {
		k.fault(at, "no field is named; choose one")
		return catalog.Ref{}, false
	}
	ref, err := k.catalog.Resolve(k.doc.Records, path)
	if err != nil {
		k.fault(at, "%s", err)
		return ref, false
	}
	return ref, true
}
