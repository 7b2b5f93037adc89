package view

import (
	"bytes"
	"errors"
	"io"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"

	"gavrik/internal/core/code"
)

// jsonNode is a JSON value with its parts in the order they are written.
type jsonNode struct {
	kind    jsonKind
	text    string // of a string, and of a number or boolean as it is written
	members []jsonMember
	items   []jsonNode
	texts   []string // in place of items, of a list of plain texts
}

// elements are the items of a list.
func (n *jsonNode) elements() []jsonNode {
	if n.texts == nil {
		return n.items
	}
	out := make([]jsonNode, len(n.texts))
	for i, text := range n.texts {
		out[i] = jsonNode{kind: jsonString, text: text}
	}
	return out
}

type jsonMember struct {
	key   string
	value jsonNode
}

type jsonKind uint8

const (
	jsonNull jsonKind = iota
	jsonBool
	jsonNumber
	jsonString
	jsonArray
	jsonObject
)

// words say what a value is, for a message.
func (n *jsonNode) words() string {
	const most = 40
	switch n.kind {
	case jsonArray:
		return "a list"
	case jsonObject:
		return "an object"
	case jsonString:
		if utf8.RuneCountInString(n.text) > most {
			return "a text"
		}
		return `the text "` + n.text + `"`
	case jsonNumber:
		if len(n.text) > most {
			return "a number"
		}
		return "the number " + n.text
	}
	return n.text
}

var byteOrderMark = []byte("\xef\xbb\xbf")

// readTree reads a text as JSON.
func readTree(data []byte) (*jsonNode, error) {
	var faults Faults
	switch {
	case len(data) > MaxBytes:
		faults.add("", code.Size, "the view document has %d bytes; at most %d are read", len(data), MaxBytes)
	case bytes.HasPrefix(data, byteOrderMark):
		faults.add("", code.Encoding, "the document begins with a byte order mark; save it as UTF-8 without one")
	case !utf8.Valid(data):
		at := 0
		for at < len(data) {
			r, n := utf8.DecodeRune(data[at:])
			if r == utf8.RuneError && n == 1 {
				break
			}
			at += n
		}
		faults.add("", code.Encoding,
			"line %d holds bytes that are no UTF-8; save the document as UTF-8", lineOf(data, at))
	}
	if err := faults.orNil(); err != nil {
		return nil, err
	}
	d := jsontext.NewDecoder(bytes.NewReader(data), jsontext.AllowDuplicateNames(true))
	var root jsonNode
	r := treeReader{whole: true}
	err := r.read(d, &root)
	if errors.Is(err, errManyValues) {
		faults.add("", code.Size, "line %d is beyond the %d values that a view document may have; only lists of texts may be longer",
			lineOf(data, int(d.InputOffset())), maxValues)
		return nil, faults
	}
	if err == nil {
		if _, err = d.ReadToken(); errors.Is(err, io.EOF) {
			err = nil
		} else if err == nil {
			faults.add("", code.JSON,
				"line %d holds more than the document, which ended before it", lineOf(data, int(d.InputOffset())))
			return nil, faults
		}
	}
	if err != nil {
		at := d.InputOffset()
		var syntax *jsontext.SyntacticError
		if errors.As(err, &syntax) {
			at, err = syntax.ByteOffset, syntax.Err
		}
		words := "the text ends too early"
		if !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
			words = err.Error()
		}
		faults.add("", code.JSON, "line %d is not valid JSON: %s", lineOf(data, int(at)), words)
		return nil, faults
	}
	return &root, nil
}

// lineOf is the line of a place, from 1.
func lineOf(data []byte, at int) int { return 1 + bytes.Count(data[:min(at, len(data))], []byte("\n")) }

// treeReader reads values. Lists under the key "values", of thousands of pasted texts, are
// read in one go if whole is set.
type treeReader struct {
	whole  bool
	values int // read so far
}

// maxValues bounds the values of a document, each of which takes a hundred bytes of memory.
const maxValues = 200_000

var errManyValues = errors.New("view: too many values")

// read reads the next value. The decoder bounds how deep values are nested.
func (r *treeReader) read(d *jsontext.Decoder, n *jsonNode) error {
	if r.values++; r.values > maxValues {
		return errManyValues
	}
	t, err := d.ReadToken()
	if err != nil {
		return err
	}
	switch t.Kind() {
	case '{':
		n.kind = jsonObject
		for d.PeekKind() != '}' {
			key, err := d.ReadToken()
			if err != nil {
				return err
			}
			m := jsonMember{key: key.String()}
			if r.whole && m.key == "values" && d.PeekKind() == '[' {
				err = r.texts(d, &m.value)
			} else {
				err = r.read(d, &m.value)
			}
			if err != nil {
				return err
			}
			n.members = append(n.members, m)
		}
		_, err = d.ReadToken()
	case '[':
		n.kind = jsonArray
		for d.PeekKind() != ']' {
			n.items = append(n.items, jsonNode{})
			if err := r.read(d, &n.items[len(n.items)-1]); err != nil {
				return err
			}
		}
		_, err = d.ReadToken()
	case '"':
		n.kind, n.text = jsonString, t.String()
	case '0':
		n.kind, n.text = jsonNumber, t.String()
	case 't', 'f':
		n.kind, n.text = jsonBool, t.String()
	default:
		n.text = "null"
	}
	return err
}

// texts reads a list of texts in one go; any other is read again, value by value.
func (r *treeReader) texts(d *jsontext.Decoder, n *jsonNode) error {
	raw, err := d.ReadValue()
	if err != nil {
		return err
	}
	list, ok := plainTexts(string(raw))
	if !ok {
		list, ok = escapedTexts(raw)
	}
	if ok {
		n.kind, n.texts = jsonArray, list
		return nil
	}
	again := treeReader{values: r.values}
	err = again.read(jsontext.NewDecoder(bytes.NewReader(raw), jsontext.AllowDuplicateNames(true)), n)
	r.values = again.values
	return err
}

// escapedTexts reads a list of texts, some of which are written with escapes; ok is false if
// anything else is in it.
func escapedTexts(raw []byte) (list []string, ok bool) {
	d := jsontext.NewDecoder(bytes.NewReader(raw))
	if t, err := d.ReadToken(); err != nil || t.Kind() != '[' {
		return nil, false
	}
	list = []string{}
	for {
		t, err := d.ReadToken()
		switch {
		case err != nil:
			return nil, false
		case t.Kind() == ']':
			return list, true
		case t.Kind() != '"':
			return nil, false
		}
		list = append(list, t.String())
	}
}
