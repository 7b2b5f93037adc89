package plan

import (
	"fmt"
	"slices"

	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Kind says how a node of the filter decides.
type Kind string

// The kinds of nodes.
const (
	All    Kind = "all"
	Any    Kind = "any"
	None   Kind = "none"
	Leaf   Kind = "test"
	Links  Kind = "linked" // by the records that link to a record
	Within Kind = "within" // by the filter of another view, its only child
	Open   Kind = "open"   // an optional question without an answer, which filters nothing
)

// Node is one step of the filter.
type Node struct {
	// Path is the condition's place in the document: "filter.all[1]".
	Path      string
	Kind      Kind
	Children  []*Node
	Predicate *Predicate
	Linked    *Linked
	// Parameter is the question that the condition answers, if it is one.
	Parameter *view.Parameter
	// At is the place among the parts of the document's combination: built-in conditions
	// come before those that are asked for.
	At int
}

func (k *checker) node(c *view.Condition, at string) *Node {
	switch {
	case c.Linked != nil:
		return &Node{Path: at, Kind: Links, Linked: k.linked(c.Linked, at+".linked")}
	case c.Within != nil:
		n := &Node{Path: at, Kind: Within}
		if c.Within.Filter != nil {
			n.Children = []*Node{k.node(c.Within.Filter, at+".within.filter")}
		}
		return n
	}
	list, kind := c.All, All
	if c.Any != nil {
		list, kind = c.Any, Any
	}
	if c.None != nil {
		list, kind = c.None, None
	}
	if list == nil {
		return k.leaf(c, at)
	}
	n := &Node{Path: at, Kind: kind}
	for i := range list {
		child := k.node(&list[i], fmt.Sprintf("%s.%s[%d]", at, kind, i))
		child.At = i
		n.Children = append(n.Children, child)
	}
	if kind == All {
		slices.SortStableFunc(n.Children, func(a, b *Node) int { return asked(a) - asked(b) })
	}
	return n
}

func asked(n *Node) int {
	if n.Parameter != nil {
		return 1
	}
	return 0
}

// leaf is a test of a field or, if it is a question without an answer, none.
func (k *checker) leaf(c *view.Condition, at string) *Node {
	if c.Parameter == nil || c.Answered() {
		return &Node{Path: at, Kind: Leaf, Predicate: k.predicate(c, at), Parameter: c.Parameter}
	}
	ref, _ := k.ref(c.Field, at+".field")
	switch {
	case k.away:
		k.fault(code.ParameterWithin, at+".ask", "a question cannot stand within a condition on linked records")
	case c.Parameter.Required:
		k.plan.MissingParameters = append(k.plan.MissingParameters, Fault{
			Path: at, Code: code.MissingParameter, Message: fmt.Sprintf("“%s” waits for an answer", c.Parameter.Label),
		})
	}
	return &Node{Path: at, Kind: Open, Parameter: c.Parameter, Predicate: &Predicate{Ref: ref}}
}
