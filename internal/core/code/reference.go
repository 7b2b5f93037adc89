package code

import (
	"fmt"
	"strings"
)

// Reference writes the list of codes in Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString(`# Faults of a view document

Written from the table of codes in the code by ` + "`make openapi`" + `.

Every fault names its place in the document, says in words what stands there, what was
wanted and how to mend it, and carries a code for programs. Over HTTP they are the
` + "`errors`" + ` of a problem (RFC 9457), each with ` + "`location`, `message` and `code`" + `. Codes keep
their meaning; new ones may be added.

| Code | What is wrong | How to mend it |
| --- | --- | --- |
`)
	for _, e := range All() {
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", e.Code, e.Meaning, e.Mend)
	}
	return b.String()
}
