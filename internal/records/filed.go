package records

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/fault"
	"gavrik/internal/wholefile"
)

// A load is kept in a folder: a list of its tables, and for each a file with its columns in Apache Arrow's
// format. Tables that have not changed keep their file. A start from it needs nothing of the databases but
// what has changed since, as their statistics tell.

// filedVersion is that of the format; another one is not read.
const filedVersion = 1

// listName is the file that lists the tables. It is written last: without it, nothing counts.
const listName = "records.json"

// onlyMine is the mode of the files: they tell as much as the databases do.
const onlyMine = 0o600

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// forWhat tells the databases and settings that records were read for.
func (f *Following) forWhat(ctx context.Context, set Settings) (string, error) {
	h := sha256.New()
	fmt.Fprintln(h, set.Zone)
	for _, w := range f.watches {
		name, err := f.identify(ctx, w)
		if err != nil {
			return "", w.source.blamed(err)
		}
		fmt.Fprintln(h, w.source.Name, name, strings.Join(w.source.Schemas, " "), w.source.Files)
	}
	return fmt.Sprintf("%x", h.Sum(nil)), nil
}

// identity names a database, wherever it is served from.
func identity(ctx context.Context, w *watch) (name string, err error) {
	if err := w.counters.connect(ctx); err != nil {
		return "", err
	}
	err = w.counters.conn.QueryRow(ctx, `SELECT concat(system_identifier, ' ', oid, ' ', datname)
		FROM pg_control_system(), pg_database WHERE datname = current_database()`).Scan(&name)
	if err != nil {
		return "", fmt.Errorf("records: %w", err)
	}
	return name, nil
}

// File writes the records of the last load into a folder that nobody else may read. What is there already and
// still right is left as it is. If it fails, what was there does not count any more, and nothing is lost.
func (f *Following) File(ctx context.Context, dir string, set Settings) error {
	f.mu.Lock()
	forWhat, err := f.forWhat(ctx, set)
	l, counters := f.last, make([]filedSource, len(f.watches))
	for i, w := range f.watches {
		counters[i] = filedSource{Name: w.source.Name, Shape: w.counters.seenShape}
		for name, count := range w.counters.seen {
			counters[i].Counters = append(counters[i].Counters, filedCounter{name, count})
		}
	}
	f.mu.Unlock()
	if err != nil || l == nil || l == f.filedLoad {
		return err
	}
	if len(l.Away) > 0 { // what is known of those is not written down
		return forgetOthers(dir, nil)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return fmt.Errorf("records: %w", err)
	}
	list := filed{Version: filedVersion, For: forWhat, AsOf: l.Snapshot.AsOf, Sources: counters}
	for i, s := range l.Catalog.Sources {
		if i < len(list.Sources) {
			list.Sources[i].AsOf = s.AsOf
		}
	}
	keep := map[string]bool{listName: true}
	for _, k := range l.ordered() {
		if err := ctx.Err(); err != nil {
			return err
		}
		t, err := f.fileTable(dir, k)
		if err != nil {
			return fmt.Errorf("records: keeping %s: %w", k.source, err)
		}
		keep[t.File] = true
		list.Tables = append(list.Tables, t)
	}
	text, err := json.Marshal(list)
	if err == nil {
		err = wholefile.Write(filepath.Join(dir, listName), onlyMine, func(w io.Writer) error {
			_, err := w.Write(text)
			return err
		})
	}
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	f.filedLoad = l
	return forgetOthers(dir, keep)
}

// fileTable writes the columns of a table, unless the file that holds them is there.
func (f *Following) fileTable(dir string, k *kept) (filedTable, error) {
	s := k.source
	t := filedTable{
		Table: s.full, Set: s.set, Source: s.index, Comment: s.comment, Kind: s.kind,
		Definition: s.definition, Reads: s.reads, PrimaryKey: s.key, Unique: sortedKeys(s.unique),
		Scales: s.scales, Rows: k.rows, Key: k.key, Notices: k.notices,
		Lost: map[string]filedLost{}, AsOf: k.asOf, Took: k.took, Waits: k.waits,
	}
	for name, one := range k.lost {
		t.Lost[name] = filedLost{one.n, one.why}
	}
	for _, c := range s.columns {
		t.Columns = append(t.Columns, filedColumn{c, c.cast})
	}
	for _, l := range s.links {
		t.Links = append(t.Links, filedLink{l.columns, l.toColumns, l.to.full, l.checked})
	}
	name := f.nameOf(k)
	t.File = name + ".arrow"
	if was, ok := f.filedTables[name]; ok {
		t.File, t.Size, t.Sum = was.File, was.Size, was.Sum
		return t, nil
	}
	sum := crc32.New(castagnoli)
	path := filepath.Join(dir, t.File)
	err := wholefile.Write(path, onlyMine, func(w io.Writer) error {
		return writeArrow(io.MultiWriter(w, sum), k.rows, k.columns, k.links)
	})
	if err != nil {
		return t, err
	}
	info, err := os.Stat(path)
	if err != nil {
		return t, err
	}
	t.Size, t.Sum = info.Size(), sum.Sum32()
	f.filedTables[name] = t
	return t, nil
}

// nameOf names a table by the columns that it has, as long as the process runs.
func (f *Following) nameOf(k *kept) string {
	h := sha256.New()
	fmt.Fprintln(h, f.run, k.source.full, k.rows)
	for _, name := range sortedKeys(k.columns) {
		fmt.Fprintln(h, name, k.columns[name].ID())
	}
	for _, name := range sortedKeys(k.links) {
		fmt.Fprintln(h, name, k.links[name].ID())
	}
	return fmt.Sprintf("%x", h.Sum(nil)[:12])
}

// forgetOthers removes files that nothing lists any more.
func forgetOthers(dir string, keep map[string]bool) error {
	all, err := os.ReadDir(dir)
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	for _, one := range all {
		ours := strings.HasSuffix(one.Name(), ".arrow") || strings.HasPrefix(one.Name(), ".") // one was cut short
		if ours && !keep[one.Name()] {
			err = errors.Join(err, os.Remove(filepath.Join(dir, one.Name())))
		}
	}
	return err
}

// Restore begins with the records that are kept in a folder, in place of a first load; nil if there are none.
// The next load brings them up to date. What is broken is removed, and the error says so.
func (f *Following) Restore(ctx context.Context, dir string, set Settings) (*Loaded, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	text, err := os.ReadFile(filepath.Join(dir, listName))
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	var l *Loaded
	var list *filed
	if err == nil {
		l, list, err = f.restored(ctx, dir, text, set)
	}
	if err != nil {
		_ = os.Remove(filepath.Join(dir, listName))
		err = fmt.Errorf("records: those kept in %s are not used: %w", dir, err)
		return nil, errors.Join(err, forgetOthers(dir, nil))
	}
	f.last, f.filedLoad = l, l
	for i, w := range f.watches {
		w.counters.seen, w.counters.seenShape, w.restored = map[TableName]string{}, list.Sources[i].Shape, true
		for _, c := range list.Sources[i].Counters {
			w.counters.seen[c.Table] = c.Count
		}
	}
	return l, nil
}

func (f *Following) restored(
	ctx context.Context, dir string, text []byte, set Settings,
) (*Loaded, *filed, error) {
	list := &filed{}
	if err := json.Unmarshal(text, list); err != nil {
		return nil, nil, err
	}
	forWhat, err := f.forWhat(ctx, set)
	switch {
	case err != nil:
		return nil, nil, err
	case list.Version != filedVersion:
		return nil, nil, fmt.Errorf("they are of version %d of the format, not %d", list.Version, filedVersion)
	case list.For != forWhat || len(list.Sources) != len(f.watches):
		return nil, nil, errors.New("they are of other databases, schemas, or of another zone")
	}
	all := make([]*kept, len(list.Tables))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, t := range list.Tables {
		group.Go(func() error {
			return fault.Caught(func() (err error) {
				if ctx.Err() == nil {
					all[i], err = t.read(dir)
				}
				return errors.Join(ctx.Err(), err)
			})
		})
	}
	if err := group.Wait(); err != nil {
		return nil, nil, err
	}
	l, err := fromKept(ctx, list, all, set)
	if err != nil {
		return nil, nil, err
	}
	for i, t := range list.Tables {
		f.filedTables[f.nameOf(l.tables[all[i].source.full])] = t
	}
	return l, list, nil
}
