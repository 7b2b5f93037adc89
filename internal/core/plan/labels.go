package plan

import "slices"

// Labels names every field that the plan uses, each once, in alphabetical order.
func (p *Plan) Labels() []string {
	var out []string
	for _, c := range slices.Concat(p.Columns, p.Hidden) {
		out = append(out, c.Ref.Label)
	}
	for _, g := range slices.Concat(p.Groups, p.Across) {
		out = append(out, g.Ref.Label)
	}
	for _, s := range p.Sort {
		out = append(out, s.Ref.Label)
	}
	out = append(out, p.Filter.labels()...)
	slices.Sort(out)
	return slices.DeleteFunc(slices.Compact(out), func(l string) bool { return l == "" })
}

func (n *Node) labels() []string {
	if n == nil {
		return nil
	}
	var out []string
	if n.Predicate != nil {
		out = append(out, n.Predicate.Ref.Label)
	}
	for _, c := range n.Children {
		out = append(out, c.labels()...)
	}
	return out
}
