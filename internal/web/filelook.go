package web

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"gavrik/internal/app"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/records/files"
)

// FileLook is what a file would become.
type FileLook struct {
	Settings  files.Settings `json:"settings" doc:"As given, or recognised"`
	Words     []string       `json:"words" doc:"What was recognised, in words"`
	Sheets    []string       `json:"sheets"`
	First     []FirstLine    `json:"first" doc:"The first lines as they stand"`
	Notices   []string       `json:"notices"`
	Recipe    files.Recipe   `json:"recipe"`
	Fields    []FieldLook    `json:"fields" doc:"Those of the recipe"`
	Rows      int            `json:"rows" doc:"Rows that were looked at"`
	Whole     bool           `json:"whole" doc:"These are all"`
	Aside     int            `json:"aside" doc:"Rows that would be kept aside"`
	Rejects   []files.Reject `json:"rejects" doc:"The first of those"`
	Repeats   int            `json:"repeats" doc:"Rows whose key stands above already"`
	Repeated  []string       `json:"repeated"`
	Unmatched []LinkLook     `json:"unmatched" doc:"One for each link of the recipe"`
}

// FirstLine is a line of a file as it stands.
type FirstLine struct {
	Line  int      `json:"line"`
	Cells []string `json:"cells"`
}

// FieldLook is what a column holds.
type FieldLook struct {
	There    bool           `json:"there" doc:"The file has this column"`
	New      bool           `json:"new" doc:"The record set does not have it yet"`
	Filled   int            `json:"filled"`
	Misfits  int            `json:"misfits" doc:"Values that cannot be read so"`
	Examples []files.Misfit `json:"examples" doc:"The first of those"`
	Samples  []string       `json:"samples"`
	Apart    bool           `json:"apart" doc:"It is filled everywhere and nowhere the same: it could be the key"`
	Open     []OpenReading  `json:"open" doc:"Ways to read it that fit equally well: one must be chosen, or it stays text"`
	Choices  []FileType     `json:"choices" doc:"Types that it can have"`
}

// OpenReading is one of several ways that fit.
type OpenReading struct {
	Type  catalog.Type `json:"type" enum:"@types"`
	Way   string       `json:"way"`
	Words string       `json:"words"`
}

// FileType is a type with the ways in which its values may be written.
type FileType struct {
	Type catalog.Type `json:"type" enum:"@types"`
	Name string       `json:"name"`
	Ways []ReadingWay `json:"ways"`
}

// LinkLook is what a link would find.
type LinkLook struct {
	Values   int      `json:"values" doc:"Different values that lead nowhere"`
	Rows     int      `json:"rows" doc:"Rows with such a value"`
	Examples []string `json:"examples"`
	Why      string   `json:"why,omitempty" doc:"Why it can be no link"`
}

func (s *intake) look(ctx context.Context, in *lookInput) (*lookOutput, error) {
	u, err := s.Store.Upload(ctx, who(ctx).ID, in.ID)
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	recipe, settings := in.Body.Recipe, in.Body.Settings
	if in.Body.Into != "" && recipe == nil {
		b, err := s.mine(ctx, g, in.Body.Into)
		if err != nil {
			return nil, err
		}
		recipe = &files.Recipe{}
		if err := json.Unmarshal(b.Recipe, recipe); err != nil {
			return nil, s.failed(ctx, "file", err)
		}
		if settings == (files.Settings{}) && recipe.Settings.Sheet != "" {
			settings.Sheet = recipe.Settings.Sheet
		}
	}
	got, err := s.LookAt(ctx, g.Scope, u, settings, recipe)
	var file *files.FileError
	if errors.As(err, &file) && settings.Sheet != "" && in.Body.Settings == (files.Settings{}) {
		got, err = s.LookAt(ctx, g.Scope, u, files.Settings{}, recipe) // a later file may call its sheet otherwise
	}
	if err != nil {
		return nil, s.noUpload(ctx, err)
	}
	return &lookOutput{lookOf(got)}, nil
}

func lookOf(l *app.Looked) FileLook {
	out := FileLook{
		Settings: l.File.Settings, Words: wordsOf(l.File), Sheets: append([]string{}, l.File.Sheets...), First: []FirstLine{},
		Notices: append([]string{}, l.File.Notices...), Recipe: *l.Recipe, Fields: []FieldLook{}, Rows: l.Rows, Whole: l.Whole,
		Aside: l.Aside, Rejects: append([]files.Reject{}, l.Rejects...), Repeats: l.Repeats,
		Repeated: append([]string{}, l.Repeated...), Unmatched: []LinkLook{},
	}
	out.Recipe.Settings = l.File.Settings
	for _, row := range l.File.First {
		cells := []string{}
		for _, c := range row.Cells[:min(len(row.Cells), firstCells)] {
			cells = append(cells, strings.ToValidUTF8(c[:min(len(c), firstText)], ""))
		}
		out.First = append(out.First, FirstLine{row.Line, cells})
	}
	for _, f := range l.Fields {
		one := FieldLook{
			There: f.There, New: f.New, Filled: f.Filled, Misfits: f.Misfits, Examples: append([]files.Misfit{}, f.Examples...),
			Samples: append([]string{}, f.Samples...), Apart: f.Apart, Open: []OpenReading{}, Choices: fileTypes,
		}
		for _, as := range f.Open {
			w, _ := reading.Find(catalog.Text, as.Type, as.Way)
			one.Open = append(one.Open, OpenReading{as.Type, as.Way, w.Words})
		}
		out.Fields = append(out.Fields, one)
	}
	for _, u := range l.Links {
		out.Unmatched = append(out.Unmatched, LinkLook{u.Values, u.Rows, append([]string{}, u.Examples...), u.Err})
	}
	return out
}

const (
	firstCells = 12
	firstText  = 60
)

// fileTypes are the types that a column can have.
var fileTypes = func() []FileType {
	var out []FileType
	for _, t := range files.Types {
		one := FileType{Type: t, Name: typeChoice(t), Ways: []ReadingWay{}}
		for _, w := range reading.Ways(catalog.Text, t) {
			one.Ways = append(one.Ways, ReadingWay{w.Key, w.Words})
		}
		out = append(out, one)
	}
	return out
}()

// wordsOf says what was recognised of a file.
func wordsOf(f *files.File) []string {
	words := []string{f.Format.Words()}
	if f.Format == files.Separated {
		mark := map[string]string{",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}[f.Separator]
		words = []string{"values parted by " + mark}
	}
	if f.Encoding != "" {
		words = append(words, f.Encoding.Words())
	}
	return words
}
