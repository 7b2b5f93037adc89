package plan

import (
	"fmt"

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
)

// Node is one step of the filter.
type Node struct {
	// Path is the condition's place in the document: "filter.all[1]".
	Path     string
	Kind     Kind
	Children []*Node
	Test     *Test
	Linked   *Linked
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
		return &Node{Path: at, Kind: Leaf, Test: k.test(c, at)}
	}
	n := &Node{Path: at, Kind: kind}
	for i := range list {
		n.Children = append(n.Children, k.node(&list[i], fmt.Sprintf("%s.%s[%d]", at, kind, i)))
	}
	return n
}
