package main

import (
	"github.com/spf13/pflag"

	"gavrik/internal/app"
	"gavrik/internal/scheduler"
)

// memoryFlags bound, in MB, what a server holds beside the records, and what one person
// may take of the machine. Zeros mean the defaults.
type memoryFlags struct {
	running, results, selections, restrictions, records int64
	perPerson                                           int
}

func (f *memoryFlags) add(flags *pflag.FlagSet) {
	flags.Int64Var(
		&f.running, "memory-running", 4096,
		"MB that all questions may take while they are computed; one person's may take half of it",
	)
	flags.Int64Var(&f.results, "memory-results", 512, "MB of answers that are kept for their next look")
	flags.Int64Var(
		&f.selections, "memory-selections", 512,
		"MB of selections and worked-out fields that questions keep for each other",
	)
	flags.Int64Var(&f.restrictions, "memory-restrictions", 4096, "MB of records as readers with limits see them")
	flags.Int64Var(
		&f.records, "memory-records", 0,
		"MB that the records may take; more than that is not loaded (default: three quarters of the machine's memory)",
	)
	flags.IntVar(
		&f.perPerson, "questions-per-person", 16, "how many questions of one person may be under way at once",
	)
}

func (f *memoryFlags) bounds() app.Bounds {
	return app.Bounds{Selections: f.selections << 20, Results: f.results << 20, Restricted: f.restrictions << 20}
}

// most is how many bytes the records may take, 0 for no bound.
func (f *memoryFlags) most() int64 {
	if f.records > 0 {
		return f.records << 20
	}
	return machineMemory("") / 4 * 3
}

func (f *memoryFlags) runs() scheduler.Options {
	return scheduler.Options{Memory: f.running << 20, PerPerson: f.perPerson}
}
