package deliver

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"unicode"

	"gavrik/internal/app"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

// Content is what a delivery's letters hold beside the view itself.
type Content struct {
	// Subject is the view's name, if it is left out.
	Subject string `json:"subject,omitempty" maxLength:"200" doc:"Of the letter; the view's name, if left out"`
	// Note stands above the view.
	Note  string           `json:"note,omitempty" maxLength:"4000" doc:"Words of one's own, above what the view says"`
	Lines int              `json:"lines,omitempty" minimum:"0" maximum:"100" doc:"How many of the first lines stand in the letter; 20, if left out"`
	Files []export.Options `json:"files,omitempty" maxItems:"4" doc:"Files that are attached"`
}

// usualLines is how many lines stand in a letter.
const usualLines = 20

// The bounds of a delivery.
const (
	mostAddresses = 200
	// MostLetters is how many letters one run may have.
	MostLetters = 2000
	// mostAttached is how large all files of one letter may be: more than that, many mail servers refuse.
	mostAttached = 20 << 20
)

// Check says what is wrong with a content, and settles its files.
func (c *Content) Check() error {
	if strings.ContainsFunc(c.Subject, unicode.IsControl) {
		return errors.New("the subject has a line break or another character that cannot stand in one")
	}
	names := map[string]bool{}
	for i := range c.Files {
		f, err := c.Files[i].Settle()
		if err != nil {
			return err
		}
		name := f.Key + string(c.Files[i].Rows)
		if names[name] {
			return fmt.Errorf("the same file is attached twice: %s", f.Name)
		}
		names[name] = true
	}
	return nil
}

// Addresses reads addresses outside: each once, in small letters. outside says which may be used.
func Addresses(list []string, outside Outside) ([]string, error) {
	out := []string{}
	seen := map[string]bool{}
	for _, text := range list {
		text = strings.TrimSpace(text)
		if text == "" {
			continue
		}
		a, err := mail.ParseAddress(text)
		if err != nil || a.Name != "" || len(text) > 254 || strings.ContainsFunc(a.Address, oddInAddress) ||
			strings.Count(a.Address, "@") != 1 {
			return nil, fmt.Errorf("%q is no e-mail address; write it as name@company.example", text)
		}
		address := strings.ToLower(a.Address)
		if !outside.Allows(address) {
			return nil, fmt.Errorf("%s is outside, and administrators have not allowed letters there; %s", address, outside.words())
		}
		if !seen[address] {
			seen[address], out = true, append(out, address)
		}
	}
	if len(out) > mostAddresses {
		return nil, fmt.Errorf("these are %d addresses; a delivery goes to %d at most", len(out), mostAddresses)
	}
	return out, nil
}

// oddInAddress says of a character that it stands in an address only between quotes, which nobody uses but to
// make one look like another.
func oddInAddress(r rune) bool {
	return unicode.IsControl(r) || unicode.IsSpace(r) || strings.ContainsRune(`"<>,;:\()[]`, r)
}

// Outside says to which addresses outside letters may go: domains, or "*" for all of them.
type Outside []string

// ReadOutside reads domains as they are typed, between commas or blanks.
func ReadOutside(text string) (Outside, error) {
	out := Outside{}
	for _, domain := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return r == ',' || r == ';' || unicode.IsSpace(r)
	}) {
		domain = strings.TrimPrefix(domain, "@")
		if domain != "*" && (!strings.Contains(domain, ".") || strings.ContainsAny(domain, "@/:*")) {
			return nil, fmt.Errorf("%q is no domain; write it as company.example, or * for every address", domain)
		}
		out = append(out, domain)
	}
	return out, nil
}

// String is the domains as they are typed.
func (o Outside) String() string { return strings.Join(o, ", ") }

// Allows says whether letters may go to an address.
func (o Outside) Allows(address string) bool {
	_, domain, _ := strings.Cut(address, "@")
	for _, allowed := range o {
		if allowed == "*" || allowed == domain {
			return true
		}
	}
	return false
}

func (o Outside) words() string {
	if len(o) == 0 {
		return "ask one to, or choose people by their names"
	}
	return "those allowed end in " + strings.Join(o, ", ")
}

// TermsOf reads the terms of a delivery: the view's, when it recurs, and what its letters hold. One
// that is sent once has no rule.
func TermsOf(d store.Delivery) (t app.Terms, rule *recurrence.Rule, c Content, err error) {
	if t, err = app.TermsOf(d.Rule, d.Answers, d.Trigger); err != nil {
		return t, nil, c, err
	}
	if d.Rule != nil {
		rule = &t.Rule
	}
	return t, rule, c, json.Unmarshal(d.Content, &c)
}

// When says in words when a delivery comes.
func When(rule *recurrence.Rule) string {
	if rule == nil {
		return "once"
	}
	return rule.Words()
}
