package view

import (
	"fmt"
	"math"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
)

// The strict reader takes exactly what the published JSON Schema takes: both are made of the
// Go types and their tags. Beyond that, a key must not stand twice.

// strict fills Go values from JSON and gathers everything that does not fit.
type strict struct {
	faults Faults
	depth  int // of objects within each other
}

// mostObjects bounds the depth: that of conditions, which Check looks at more closely, and
// what stands around and in them.
const mostObjects = MaxDepth + 32

// fill sets a value of a type that tags describe.
func (s *strict) fill(to reflect.Value, n *jsonNode, path string, tags reflect.StructTag) {
	if to.Kind() == reflect.Pointer {
		if n.kind != jsonNull {
			to.Set(reflect.New(to.Type().Elem()))
			s.fill(to.Elem(), n, path, tags)
			return
		}
		to = reflect.New(to.Type().Elem()).Elem() // null is told from what is wanted
	}
	if want := kindOf(to.Kind()); n.kind != want.kind {
		s.wrongKind(n, path, want.words)
		return
	}
	switch to.Kind() {
	case reflect.Struct:
		s.fillObject(to, n, path)
	case reflect.Slice:
		if n.texts != nil && to.Type().Elem().Kind() == reflect.String {
			to.Set(reflect.ValueOf(n.texts).Convert(to.Type()))
			return
		}
		items := n.elements()
		list := reflect.MakeSlice(to.Type(), len(items), len(items))
		for i := range items {
			s.fill(list.Index(i), &items[i], path+"["+strconv.Itoa(i)+"]", "")
		}
		to.Set(list)
	case reflect.String:
		s.checkText(n.text, path, tags)
		to.SetString(n.text)
	case reflect.Int:
		s.fillWhole(to, n, path, tags)
	case reflect.Bool:
		to.SetBool(n.text == "true")
	}
}

// wanted is the kind of JSON value for a kind of Go value, and its words.
type wanted struct {
	kind  jsonKind
	words string
}

func kindOf(k reflect.Kind) wanted {
	switch k {
	case reflect.Struct:
		return wanted{jsonObject, "an object in braces"}
	case reflect.Slice:
		return wanted{jsonArray, "a list in brackets"}
	case reflect.Int:
		return wanted{jsonNumber, "a whole number"}
	case reflect.Bool:
		return wanted{jsonBool, "true or false"}
	case reflect.String:
		return wanted{jsonString, "a text in quotes"}
	}
	panic("view: no document holds a " + k.String())
}

func (s *strict) wrongKind(n *jsonNode, path, want string) {
	if n.kind == jsonNull {
		s.faults.add(path, code.Kind, "null stands where %s is wanted; leave the key out if there is none", want)
		return
	}
	s.faults.add(path, code.Kind, "%s stands where %s is wanted", n.words(), want)
}

// fields are the keys of an object, by name.
type fields struct {
	byName   map[string]reflect.StructField
	names    []string
	required []string
}

var fieldsOfTypes sync.Map // of reflect.Type to *fields

func fieldsOf(t reflect.Type) *fields {
	if have, ok := fieldsOfTypes.Load(t); ok {
		return have.(*fields)
	}
	out := &fields{byName: map[string]reflect.StructField{}}
	for f := range t.Fields() {
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		out.byName[name], out.names = f, append(out.names, name)
		if !strings.Contains(options, "omit") {
			out.required = append(out.required, name)
		}
	}
	fieldsOfTypes.Store(t, out)
	return out
}

func (s *strict) fillObject(to reflect.Value, n *jsonNode, path string) {
	s.depth++
	defer func() { s.depth-- }()
	if s.depth > mostObjects {
		s.faults.add("", code.Depth, "conditions are nested more than %d deep", MaxDepth)
		return
	}
	known := fieldsOf(to.Type())
	seen := map[string]bool{}
	for i := range n.members {
		m := &n.members[i]
		at := strings.TrimPrefix(path+"."+m.key, ".")
		f, ok := known.byName[m.key]
		switch {
		case seen[m.key]:
			s.faults.add(at, code.Twice, "the key %q stands twice; take one of them out", m.key)
		case !ok:
			s.faults.add(at, code.Unknown, "this key is not known here%s", hintOf(m.key, known.names))
		default:
			s.fill(to.FieldByIndex(f.Index), &m.value, at, f.Tag)
		}
		seen[m.key] = true
	}
	for _, name := range known.required {
		if !seen[name] {
			s.faults.add(strings.TrimPrefix(path+"."+name, "."), code.Missing, "the key %q is missing; add it, with %s",
				name, kindOf(known.byName[name].Type.Kind()).words)
		}
	}
}

// hintOf names the key that is meant, or all that there are.
func hintOf(key string, known []string) string {
	if near := catalog.Suggest(key, known); near != "" {
		return near
	}
	return "; those known are " + Words(known)
}

func (s *strict) checkText(text, path string, tags reflect.StructTag) {
	if choices := tags.Get("enum"); choices != "" {
		if known := Choices(choices); !slices.Contains(known, text) {
			s.faults.add(path, code.Choice,
				"%q is none of the words that can stand here%s", text, choiceHint(text, known))
		}
	}
	if most, ok := number(tags, "maxLength"); ok && utf8.RuneCountInString(text) > most {
		s.faults.add(path, code.Bounds, "the text has %d characters; at most %d can stand here",
			utf8.RuneCountInString(text), most)
	}
	if p := tags.Get("pattern"); p != "" && !patternOf(p).MatchString(text) {
		s.faults.add(path, code.Bounds,
			"%q is no name of this kind; begin with a small letter, and use small letters, digits and _", text)
	}
}

func choiceHint(text string, known []string) string {
	if near := catalog.Suggest(text, known); near != "" {
		return near
	}
	return "; use " + Words(known)
}

var patterns sync.Map // of strings to *regexp.Regexp

func patternOf(p string) *regexp.Regexp {
	if have, ok := patterns.Load(p); ok {
		return have.(*regexp.Regexp)
	}
	made := regexp.MustCompile(p)
	patterns.Store(p, made)
	return made
}

func (s *strict) fillWhole(to reflect.Value, n *jsonNode, path string, tags reflect.StructTag) {
	v, err := strconv.ParseInt(n.text, 10, 64)
	if err != nil {
		x, err := strconv.ParseFloat(n.text, 64) // 1.0 is a whole number, too
		if err != nil || x != math.Trunc(x) {
			s.wrongKind(n, path, "a whole number")
			return
		}
		if math.Abs(x) >= 1<<63 {
			s.faults.add(path, code.Bounds, "%s is too large", n.text)
			return
		}
		v = int64(x)
	}
	least, atLeast := number(tags, "minimum")
	most, atMost := number(tags, "maximum")
	switch {
	case path == "gavrik" && atMost && v > int64(most):
		s.faults.add(path, code.Version,
			"the document has version %d; this program reads up to %d: install a newer one", v, most)
	case atLeast && v < int64(least) || atMost && v > int64(most):
		s.faults.add(path, code.Bounds,
			"%d stands where a whole number %s is wanted", v, boundsWords(least, atLeast, most, atMost))
	}
	to.SetInt(v)
}

func boundsWords(least int, atLeast bool, most int, atMost bool) string {
	switch {
	case atLeast && atMost:
		return fmt.Sprintf("from %d to %d", least, most)
	case atLeast:
		return fmt.Sprintf("of at least %d", least)
	}
	return fmt.Sprintf("of at most %d", most)
}

// number is a tag's number.
func number(tags reflect.StructTag, name string) (int, bool) {
	v, err := strconv.Atoi(tags.Get(name))
	return v, err == nil
}

// Words lists words: "a, b or c".
func Words[T ~string](list []T) string { return Listed(list, " or ") }

// Listed lists words, with what stands before the last.
func Listed[T ~string](words []T, last string) string {
	var b strings.Builder
	for i, w := range words {
		switch {
		case i == 0:
		case i == len(words)-1:
			b.WriteString(last)
		default:
			b.WriteString(", ")
		}
		b.WriteString(string(w))
	}
	return b.String()
}
