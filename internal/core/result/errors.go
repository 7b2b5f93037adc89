package result

// LimitError says which step of a view asks for more than a run may use, and
// how to mend it.
type LimitError struct {
	Step string
	Mend string
}

func (e *LimitError) Error() string { return e.Step + "; " + e.Mend }

// NotThereError says that a result has no such group or column, or none any longer.
type NotThereError struct{ What string }

func (e *NotThereError) Error() string { return "there is no " + e.What }
