package main

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"gavrik/internal/app"
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// importFlags say what is to become of a file.
type importFlags struct {
	workspaceFlags
	name     string
	key      []string
	types    map[string]string
	links    map[string]string
	settings files.Settings
	encoding string
	update   bool
	missing  string
	check    bool
}

func importCommand() *cobra.Command {
	var f importFlags
	cmd := &cobra.Command{
		Use:   "import FILE",
		Short: "Bring a file in as records of its own, or change those that it became before",
		Long: `Bring a file in as records of its own, or change those that it became before.

The file holds separated values (CSV, TSV), a spreadsheet (.xlsx), JSON Lines or
Parquet. What it holds is recognised and shown, as on the page Records; --check
stops there. Rows that do not fit are kept aside with their line and their reason,
and never stop the rest. With --key the records can be changed by a later file
(--update). Until all of the file is read, what was there stays as it is.

A running server offers the records after the next load ("Load again" on its page
Records).`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			cal, err := f.calendar()
			if err != nil {
				return err
			}
			f.settings.Encoding = files.Encoding(f.encoding)
			in, name, done, err := opened(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			defer done()
			if err := f.bringIn(cmd.Context(), cmd.OutOrStdout(), in, name, cal); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return nil
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&f.recordsURL, "database-url", "", "database of Gavrik's own state, where files lie")
	flags.StringVar(&f.zone, "zone", "UTC", "time zone of times that name none, as Europe/Lisbon")
	flags.StringVar(&f.name, "as", "", "what the records are called (default: as the file)")
	flags.StringSliceVar(&f.key, "key", nil, "columns that tell the records apart")
	flags.StringToStringVar(&f.types, "type", nil, "types of columns, as price=decimal or \"sold on=date:day/month/year\"; out leaves one out")
	flags.StringToStringVar(&f.links, "link", nil, "links to other records, as item=items.code")
	flags.BoolVar(&f.update, "update", false, "change the records that came so before")
	flags.StringVar(&f.missing, "missing", app.LeaveMissing,
		"what becomes of records that the file does not have: leave, remove, or replace all records by those of the file")
	flags.BoolVar(&f.check, "check", false, "look at the file and write nothing")
	flags.StringVar(&f.settings.Sheet, "sheet", "", "sheet of a spreadsheet (default: the first)")
	flags.IntVar(&f.settings.Heading, "heading", 0, "line that names the columns; -1 if none does")
	flags.StringVar(&f.settings.Separator, "separator", "", "what parts the values: , ; | or a tab")
	flags.StringVar(&f.encoding, "encoding", "", "how letters are kept: utf-8, utf-16le, utf-16be or windows-1252")
	f.weekStart, f.fiscalStart = "monday", 1
	return cmd
}

// opened is a file that can be read at any place: what comes through a pipe is written to disk first.
func opened(ctx context.Context, name string) (in *io.SectionReader, base string, done func(), err error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, "", nil, fmt.Errorf("%s cannot be read: %w", name, err)
	}
	base, done = filepath.Base(name), func() { _ = f.Close() } // it was only read
	info, err := f.Stat()
	if err == nil && info.Mode().IsRegular() {
		return io.NewSectionReader(f, 0, info.Size()), base, done, nil
	}
	// A pipe may never say anything more.
	stop := context.AfterFunc(ctx, func() { _ = f.Close() })
	defer stop()
	defer f.Close()
	spool, err := os.CreateTemp("", "gavrik-import-*")
	if err != nil {
		return nil, "", nil, fmt.Errorf("import: %w", err)
	}
	done = func() { _, _ = spool.Close(), os.Remove(spool.Name()) } // the system removes it in any case
	size, err := io.Copy(spool, f)
	if err != nil {
		done()
		return nil, "", nil, fmt.Errorf("%s could not be read to its end: %w", name, err)
	}
	return io.NewSectionReader(spool, 0, size), base, done, nil
}

func (f *importFlags) bringIn(
	ctx context.Context, out io.Writer, in *io.SectionReader, name string, cal calendar.Calendar,
) error {
	state, err := store.Open(ctx, f.recordsURL)
	if err != nil {
		return err
	}
	defer state.Close()
	f.name = cmp.Or(f.name, files.Stem(name))
	var job app.FileJob
	var known *files.Recipe
	all, err := state.BroughtIn(ctx)
	if err != nil {
		return err
	}
	table := files.KeyOf(f.name, "file")
	before := slices.IndexFunc(all, func(b store.BroughtIn) bool { return b.Table == table })
	switch {
	case before >= 0 && !f.update:
		return fmt.Errorf("there are records called %q already; change them with --update, or call these otherwise with --as", all[before].Table)
	case before < 0 && f.update:
		return fmt.Errorf("no file came in as %q yet; leave out --update", f.name)
	case f.update:
		job.Into = all[before].Set
		if known, err = app.RecipeOf(all[before]); err != nil {
			return err
		}
	}
	look, err := app.LookFile(ctx, in, name, f.settings, known, cal, f.settle)
	if err != nil {
		return err
	}
	printLook(out, look)
	if f.check {
		return nil
	}
	job.Recipe = *look.Recipe
	how := app.BringingIn{Name: f.name, Missing: f.missing, Shares: []store.Share{store.WithEveryone}}
	aside := 0
	kept, err := app.BringFile(ctx, state, look.File, store.Person{Name: "the command line"}, job, how, cal,
		func(o *app.FileOutcome) error {
			printOutcome(out, o)
			if aside = o.Aside; o.Rows == 0 {
				return fmt.Errorf("nothing came in: all %d rows do not fit", o.Aside)
			}
			return nil
		})
	if err == nil {
		fmt.Fprintf(out, "%s: %d records, %d rows kept aside\n", kept.Set, kept.Rows, aside)
	}
	return err
}

// settle takes over what the flags say of columns.
func (f *importFlags) settle(r *files.Recipe) error {
	field := func(flag, name string) (*files.RecipeField, error) {
		var names []string
		for i := range r.Fields {
			one := &r.Fields[i]
			if strings.EqualFold(one.Heading, name) || one.Key == name {
				return one, nil
			}
			names = append(names, one.Heading)
		}
		return nil, fmt.Errorf("--%s names the column %q; the file has %s", flag, name, strings.Join(names, ", "))
	}
	for _, name := range slices.Sorted(maps.Keys(f.types)) {
		one, err := field("type", name)
		if err != nil {
			return err
		}
		kind, way, _ := strings.Cut(f.types[name], ":")
		if one.Out = kind == "out"; one.Out {
			continue
		}
		one.Type, one.Way = catalog.Type(kind), way
		if _, ok := reading.Find(catalog.Text, one.Type, way); !ok && one.Type != catalog.Text {
			return fmt.Errorf("--type %s: there is no type %q; use one of %s", name, f.types[name], strings.Join(typeNames(), ", "))
		}
	}
	for _, name := range f.key {
		one, err := field("key", name)
		if err != nil {
			return err
		}
		if !slices.Contains(r.By, one.Key) {
			r.By = append(slices.Clip(r.By), one.Key)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(f.links)) {
		one, err := field("link", name)
		if err != nil {
			return err
		}
		to, into, ok := strings.Cut(f.links[name], ".")
		if !ok {
			return fmt.Errorf("--link %s: name the records and their field, as items.code", name)
		}
		r.Links = append(r.Links, files.RecipeLink{By: one.Key, To: to, Into: into})
	}
	return nil
}

// typeNames are the types as --type takes them.
func typeNames() []string {
	var out []string
	for _, t := range files.Types {
		out = append(out, string(t))
		if ways := reading.Ways(catalog.Text, t); len(ways) > 1 {
			for _, w := range ways {
				out = append(out, string(t)+":"+w.Key)
			}
		}
	}
	return append(out, "out")
}

func printLook(out io.Writer, l *files.Look) {
	for i, f := range l.Recipe.Fields {
		what := string(f.Type)
		if f.Way != "" {
			what += ":" + f.Way
		}
		if f.Out {
			what = "left out"
		}
		look := l.Fields[i]
		if len(look.Open) > 0 {
			var ways []string
			for _, as := range look.Open {
				ways = append(ways, string(as.Type)+":"+as.Way)
			}
			what += ", because it could be any of " + strings.Join(ways, ", ") + "; say which with --type"
		}
		if look.Misfits > 0 {
			what += fmt.Sprintf(", %d do not fit, as %q", look.Misfits, look.Examples[0].Text)
		}
		fmt.Fprintf(out, "  %-28s %s\n", f.Heading, what)
	}
	for _, notice := range l.File.Notices {
		fmt.Fprintln(out, " ", notice)
	}
}

// shownRejects is how many rows are named that are kept aside.
const shownRejects = 10

func printOutcome(out io.Writer, o *app.FileOutcome) {
	for i, r := range o.Rejects {
		if i == shownRejects {
			fmt.Fprintf(out, "  … and %d more in gavrik.set_aside\n", o.Aside-i)
			break
		}
		fmt.Fprintf(out, "  line %d: %s\n", r.Line, r.Reason)
	}
	if d := o.Differences; d != nil {
		fmt.Fprintf(out, "  %d new, %d changed, %d the same, %d missing from the file\n", d.New, d.Changed, d.Same, d.Missing)
	}
}
