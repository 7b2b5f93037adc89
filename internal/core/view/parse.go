package view

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"sort"
	"strings"

	strict "github.com/go-json-experiment/json"
)

// MaxBytes bounds a document: room for 100,000 pasted values, not for a file
// given by mistake.
const MaxBytes = 8 << 20

// MaxDepth bounds the nesting of conditions.
const MaxDepth = 256

// Parse reads a document. A key it does not know, a value of the wrong kind and
// anything after the document are refused, with the place in the document.
func Parse(data []byte) (*Document, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the view document has %d bytes; at most %d are read", len(data), MaxBytes)
	}
	if doc, ok := parseKnown(data); ok {
		return doc, doc.Check()
	}
	var raw any
	if err := json.Unmarshal(data, &raw); err != nil {
		return nil, parseError(data, err)
	}
	if _, ok := raw.(map[string]any); !ok {
		return nil, errors.New("a view document is a JSON object: { \"gavrik\": 1, \"records\": … }")
	}
	if err := refuseUnknown(raw, reflect.TypeFor[Document](), ""); err != nil {
		return nil, err
	}
	var doc Document
	if err := json.Unmarshal(data, &doc); err != nil {
		return nil, parseError(data, err)
	}
	if doc.Columns == nil {
		doc.Columns = []Column{} // written as [], as the schema has it
	}
	return &doc, doc.Check()
}

// parseKnown reads a document without fault in one go, with the reader that looks at
// a list of thousands once; what has any fault is read again to say where it is.
func parseKnown(data []byte) (*Document, bool) {
	var doc Document
	if err := strict.Unmarshal(data, &doc, strict.RejectUnknownMembers(true)); err != nil || doc.Gavrik == 0 {
		return nil, false
	}
	if doc.Columns == nil {
		doc.Columns = []Column{} // written as [], as the schema has it
	}
	return &doc, true
}

// Check reports what is wrong with a document by itself, without a catalog.
func (d *Document) Check() error {
	if d.Gavrik < 1 {
		return errors.New(`the document names no version; put "gavrik": 1 at its start`)
	}
	if d.Gavrik > Version {
		return fmt.Errorf("the document has version %d; this program reads up to %d: install a newer one", d.Gavrik, Version)
	}
	if d.Compare != nil && d.Compare.Filter != nil {
		if err := d.Compare.Filter.check("compare.filter", 0); err != nil {
			return err
		}
	}
	if d.Filter != nil {
		return d.Filter.check("filter", 0)
	}
	return nil
}

func (c *Condition) check(path string, depth int) error {
	if depth > MaxDepth {
		return fmt.Errorf("%s: conditions are nested more than %d deep", path, MaxDepth)
	}
	kinds := 0
	for name, list := range map[string][]Condition{"all": c.All, "any": c.Any, "none": c.None} {
		if list == nil {
			continue
		}
		kinds++
		for i := range list {
			if err := list[i].check(fmt.Sprintf("%s.%s[%d]", path, name, i), depth+1); err != nil {
				return err
			}
		}
	}
	if c.Field != "" || c.Op != "" {
		kinds++
	}
	if c.Linked != nil {
		kinds++
	}
	if c.Within != nil {
		kinds++
	}
	if kinds > 1 {
		return fmt.Errorf("%s: a condition is one of all, any, none, linked, within or a test of a field, not several at once", path)
	}
	if err := c.checkAsk(path); err != nil {
		return err
	}
	return c.checkOthers(path, depth)
}

// checkOthers checks the conditions on other records that a condition holds.
func (c *Condition) checkOthers(path string, depth int) error {
	inner := map[string]*Condition{}
	if c.Linked != nil {
		inner["linked.where"], inner["linked.meets"] = c.Linked.Where, c.Linked.Meets
	}
	if c.Within != nil {
		inner["within.filter"] = c.Within.Filter
	}
	for name, other := range inner {
		if other == nil {
			continue
		}
		if err := other.check(path+"."+name, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// refuseUnknown walks a decoded document beside its Go type.
func refuseUnknown(raw any, t reflect.Type, path string) error {
	if t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	switch value := raw.(type) {
	case []any:
		if t.Kind() != reflect.Slice {
			return nil // the decoder says this better
		}
		for i, item := range value {
			if err := refuseUnknown(item, t.Elem(), fmt.Sprintf("%s[%d]", path, i)); err != nil {
				return err
			}
		}
	case map[string]any:
		if t.Kind() != reflect.Struct {
			return nil
		}
		known := map[string]reflect.Type{}
		for i := range t.NumField() {
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			known[name] = t.Field(i).Type
		}
		keys := make([]string, 0, len(value))
		for k := range value {
			keys = append(keys, k)
		}
		sort.Strings(keys) // the same fault first every time
		for _, k := range keys {
			at := strings.TrimPrefix(path+"."+k, ".")
			ft, ok := known[k]
			if !ok {
				return fmt.Errorf("%s: this key is not known here", at)
			}
			if err := refuseUnknown(value[k], ft, at); err != nil {
				return err
			}
		}
	}
	return nil
}

// parseError adds the line, or the place, to a fault of encoding/json.
func parseError(data []byte, err error) error {
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		line := 1 + bytes.Count(data[:min(int(syntax.Offset), len(data))], []byte("\n"))
		return fmt.Errorf("line %d is not valid JSON: %w", line, err)
	}
	var kind *json.UnmarshalTypeError
	if errors.As(err, &kind) {
		return fmt.Errorf("%s: a %s stands where a %s is wanted", kind.Field, kind.Value, kind.Type)
	}
	return fmt.Errorf("not a view document: %w", err)
}
