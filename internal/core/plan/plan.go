// Package plan is a view document resolved against a catalog: every field, type
// and operand known, every relative date worked out, every formula checked. A Plan is
// plain data, without code and without pointers into a snapshot: written down and read
// back it asks for the same, of package engine or of another reader.
package plan

import (
	"errors"
	"fmt"
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Plan is a checked view.
type Plan struct {
	Records   string
	One, Many string // the records in running text
	// Address is the key of the field that a record is opened by, or empty.
	Address  string
	Filter   *Node // nil keeps all
	Columns  []Column
	Hidden   []Column // kept in the document, and not shown
	Measures []Measure
	Groups   []Group
	Across   []Group // not empty: a crosstab
	Sort     []Sort
	Compare  *Compare // nil compares with nothing
	Chart    *Chart   // nil draws nothing
	// Derived are the calculated fields and buckets of the view, by path. They are
	// fields of Records.
	Derived map[string]*Derived
	// MissingParameters are the required questions that have no answer; until they have, the view
	// is not to be run.
	MissingParameters Faults
	// Restricted name the columns that are left out because the reader may not see what they
	// show. Whatever else would need it is a fault.
	Restricted []string
	// Lost name the columns whose field is not there any more; see CheckShown.
	Lost []string
	// Absent are the calculated fields and buckets that are made of what the reader may not
	// see, by path.
	Absent map[string]*catalog.RestrictedError
	// Calendar is the setting that dates are grouped and written in.
	Calendar calendar.Calendar
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
	// Levels are the levels whose lines show the measure, 0 for the grand total; nil
	// means all.
	Levels []int
	// Frozen, Bars and Format are as in the document.
	Frozen, Bars bool
	Format       *catalog.Format
}

// FormatOf is how the figures of a column are written, or nil: a count of dates is
// no date, and a share of money is no money.
func (p *Plan) FormatOf(column int) *catalog.Format {
	c := p.Columns[column]
	if c.Format == nil || c.Measure < 0 {
		return c.Format
	}
	m := p.Measures[c.Measure]
	if m.Show != "" && m.Show != view.Running && m.Show != view.Difference ||
		c.Format.Fault(m.Result().Type) != "" {
		return nil
	}
	if m.Fn.Info().Gives == view.GivesCount {
		return nil
	}
	return c.Format
}

// Shows says whether lines of a level show the column's measure.
func (c Column) Shows(level int) bool { return c.Levels == nil || slices.Contains(c.Levels, level) }

// Group is one level of groups.
type Group struct {
	Ref   catalog.Ref
	Unit  calendar.Unit // empty: by value
	Order Order
	// Top, if not 0, keeps the first so many groups of each parent and joins the
	// others into one, called Rest.
	Top  int
	Rest string
	// Empty adds groups that have no records.
	Empty bool
	// Keep, if set, keeps the groups whose total is as asked; it is decided before Top.
	Keep *Keep `json:",omitempty"`
}

// LeavesOut says whether records of groups that are not kept leave the result.
func (g Group) LeavesOut() bool { return g.Keep != nil && g.Keep.Out }

// Joins says whether groups that are not kept are joined into one.
func (g Group) Joins() bool { return g.Top > 0 || g.Keep != nil && !g.Keep.Out }

// Keep keeps groups of a level by a total of their own.
type Keep struct {
	// Measure is the total, -1 for the number of records.
	Measure int
	// Test is what the total must meet; its Ref's field says how the total is kept. If nil, the
	// largest groups are kept that make up Share of their parent, in PercentUnit.
	Test  *Predicate
	Share int64
	// Out leaves the records of the others out; else they are joined into one group.
	Out bool
}

// Label names the level: "Route", "Month opened".
func (g Group) Label() string {
	if g.Unit == "" {
		return g.Ref.Label
	}
	stem, _ := g.Ref.Stem()
	return catalog.UpperFirst(g.Unit.Word()) + " " + catalog.LowerFirst(stem)
}

// Order is how the groups of a level follow each other.
type Order struct {
	By      string   // one of view.ByLabel, ByCount, ByTotal and ByList
	Measure int      // with ByTotal
	List    []string // with ByList: folded
	Desc    bool
}

// Sort is one key of the order of records.
type Sort struct {
	Ref  catalog.Ref
	Desc bool
}

// Fault is one thing wrong with a document; Faults is everything, in its order.
type (
	Fault  = view.Fault
	Faults = view.Faults
)

// Limits on the size of a view.
const (
	MaxColumns = 200
	MaxLevels  = 10
	// MaxDerived bounds the calculated fields and buckets of a view.
	MaxDerived = 200
)

// Check resolves a document. The error is Faults, and complete: one run tells an
// author everything there is to mend.
func Check(doc *view.Document, c *catalog.Catalog, cal calendar.Calendar) (*Plan, error) {
	return CheckWith(doc, c, nil, cal)
}

// CheckWith is Check where views may use definitions, too.
func CheckWith(
	doc *view.Document, c *catalog.Catalog, defs Definitions, cal calendar.Calendar,
) (*Plan, error) {
	return resolve(doc, c, defs, cal, false)
}

// CheckShown is CheckWith for a view that is to be shown as far as it can be: a column
// whose field is not there any more, as when it was renamed at its source, is left out and
// named. Whatever else needs such a field is a fault all the same, for its numbers would
// be others.
func CheckShown(
	doc *view.Document, c *catalog.Catalog, defs Definitions, cal calendar.Calendar,
) (*Plan, error) {
	return resolve(doc, c, defs, cal, true)
}

func resolve(
	doc *view.Document, c *catalog.Catalog, defs Definitions, cal calendar.Calendar, leavesLost bool,
) (*Plan, error) {
	k := &checker{
		leavesLost: leavesLost, catalog: c, definitions: defs, set: doc.Records, cal: cal, faults: &Faults{},
	}
	if err := doc.Check(); err != nil {
		return nil, err
	}
	set := c.Set(doc.Records)
	if set == nil {
		_, err := c.Resolve(doc.Records, "")
		k.unresolved("records", err)
		return nil, *k.faults
	}
	k.doc, k.plan, k.made = doc, newPlan(set, cal), map[string]*making{}
	k.derive()
	if doc.Filter != nil {
		k.plan.Filter = k.node(doc.Filter, "filter")
	}
	k.settleBeside()
	k.columns()
	k.plan.Groups = k.groups(doc.Groups, "groups")
	k.plan.Across = k.groups(doc.Across, "across")
	k.sorts()
	if len(doc.Across) > 0 {
		k.crosstab()
	}
	if doc.Compare != nil && len(*k.faults) == 0 {
		k.compare(doc.Compare)
		k.comparesLate()
	}
	if doc.Chart != nil {
		k.chart(doc.Chart)
	}
	if len(*k.faults) > 0 {
		return nil, *k.faults
	}
	return k.plan, nil
}

// newPlan is a plan of a record set that asks for nothing yet.
func newPlan(set *catalog.RecordSet, cal calendar.Calendar) *Plan {
	return &Plan{
		Records: set.Key, One: set.One, Many: set.Many, Address: set.Address(), Calendar: cal,
		Derived: map[string]*Derived{}, Absent: map[string]*catalog.RestrictedError{},
	}
}

// Field resolves a path as the plan's view may use it.
func (p *Plan) Field(c *catalog.Catalog, path string) (catalog.Ref, error) {
	if held := p.Absent[path]; held != nil {
		return catalog.Ref{}, held
	}
	if d := p.Derived[path]; d != nil {
		if d.PerTotal() {
			return d.Ref, fmt.Errorf("%s is calculated from totals; single records have no value of it", d.Ref.Label)
		}
		return d.Ref, nil
	}
	return c.Resolve(p.Records, path)
}

// checker resolves the parts of a document that speak of one record set.
type checker struct {
	catalog *catalog.Catalog
	set     string
	cal     calendar.Calendar
	faults  *Faults
	// doc and plan are the view's; where another set's records are spoken of, away is set, and
	// they hold nothing but the fields that are used of it.
	doc  *view.Document
	plan *Plan
	away bool
	// made are the calculated fields and buckets resolved so far, by path, also those with a
	// fault.
	made map[string]*making
	// deriving are the keys of calculated fields and buckets being resolved.
	deriving []step
	reached  []catalog.Reached // see reach
	// held is the first thing come upon that the reader may not see, of a field in the making.
	held **catalog.RestrictedError
	// named are the fields that formulas can name, by whether a definition is being made.
	named map[bool][]candidate

	definitions Definitions
	// leavesLost leaves columns out that are not there any more.
	leavesLost bool
}

// there is a checker of what is said of another record set.
func (k *checker) there(set string) *checker {
	return &checker{
		catalog: k.catalog, definitions: k.definitions, set: set, cal: k.cal, faults: k.faults,
		doc: &view.Document{Records: set}, plan: newPlan(k.catalog.Set(set), k.cal), away: true,
		made: map[string]*making{}, deriving: k.deriving, held: k.held,
	}
}

func (k *checker) fault(c code.Code, path, format string, args ...any) {
	k.faults.Add(Fault{Path: path, Code: c, Message: fmt.Sprintf(format, args...)})
}

// unresolved reports why a path leads nowhere.
func (k *checker) unresolved(path string, err error) {
	var held *catalog.RestrictedError
	if errors.As(err, &held) {
		k.holdBack(held)
	}
	k.fault(codeOf(err), path, "%s", err)
}

// holdBack notes that a field in the making needs what the reader may not see.
func (k *checker) holdBack(what *catalog.RestrictedError) {
	if k.held != nil && *k.held == nil {
		*k.held = what
	}
}

// codeOf is the code of a fault of the catalog.
func codeOf(err error) code.Code {
	var held *catalog.RestrictedError
	var wrong *catalog.PathError
	switch {
	case errors.As(err, &held):
		return code.Restricted
	case errors.As(err, &wrong):
		return map[catalog.PathFault]code.Code{
			catalog.NoSet: code.Records, catalog.NoLink: code.Link, catalog.TooFar: code.Link,
			catalog.NoField: code.Field, catalog.IsLink: code.LinkAsField,
		}[wrong.Fault]
	}
	return code.Field
}

// ref resolves a field path, or reports why not.
func (k *checker) ref(path, at string) (catalog.Ref, bool) {
	if path == "" {
		k.fault(code.NoField, at, "no field is named; choose one")
		return catalog.Ref{}, false
	}
	if d := k.derived(path); d != nil {
		if d.restricted != nil {
			k.holdBack(d.restricted)
			k.fault(code.Restricted, at, "%s", madeOf(d.Derived, d.restricted))
		}
		return d.Ref, !d.broken
	}
	ref, err := k.catalog.Resolve(k.set, path)
	if err != nil {
		k.unresolved(at, err)
		return ref, false
	}
	return ref, true
}
