package main

import (
	"bufio"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// Every setting is a flag, an environment variable and a line of a file. What is written
// nearer to the start of the program holds: a flag before a variable before the file.

// variableOf is the environment variable of a flag: GAVRIK_DATABASE_URL.
func variableOf(flag string) string {
	return "GAVRIK_" + strings.ToUpper(strings.ReplaceAll(flag, "-", "_"))
}

// settle gives flags that are not on the command line their values from elsewhere.
func settle(cmd *cobra.Command) error {
	flags := cmd.Flags()
	file := map[string]string{}
	if path := firstOf(flags.Lookup("config"), os.Getenv("GAVRIK_CONFIG")); path != "" {
		var err error
		if file, err = readSettings(path); err != nil {
			return err
		}
		for name := range file {
			if flags.Lookup(name) == nil && !knownElsewhere(cmd.Root(), name) {
				return fmt.Errorf(
					"%s: there is no setting %q; the names are those of the flags, as \"listen\"", path, name,
				)
			}
		}
	}
	var wrong error
	flags.VisitAll(func(f *pflag.Flag) {
		if f.Changed || wrong != nil || f.Name == "config" || f.Name == "help" {
			return
		}
		value, where, found := "", "", false
		if value, found = os.LookupEnv(variableOf(f.Name)); found {
			where = variableOf(f.Name)
		} else if value, found = file[f.Name]; found {
			where = "the setting " + f.Name
		}
		if found {
			if err := flags.Set(f.Name, value); err != nil {
				wrong = fmt.Errorf("%s: %w", where, err)
			}
		}
	})
	return wrong
}

func firstOf(f *pflag.Flag, other string) string {
	if f != nil && f.Value.String() != "" {
		return f.Value.String()
	}
	return other
}

// knownElsewhere says whether another command has a flag: one file may serve them all.
func knownElsewhere(cmd *cobra.Command, name string) bool {
	if cmd.Flags().Lookup(name) != nil {
		return true
	}
	for _, c := range cmd.Commands() {
		if knownElsewhere(c, name) {
			return true
		}
	}
	return false
}

// readSettings reads lines of "name = value"; a line that begins with # says nothing.
func readSettings(path string) (map[string]string, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, fmt.Errorf("the settings cannot be read: %w", err)
	}
	defer f.Close()
	out := map[string]string{}
	lines := bufio.NewScanner(f)
	for n := 1; lines.Scan(); n++ {
		line := strings.TrimSpace(lines.Text())
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		name, value, ok := strings.Cut(line, "=")
		if !ok {
			return nil, fmt.Errorf("%s, line %d: write a setting as name = value", path, n)
		}
		out[strings.TrimSpace(name)] = strings.TrimSpace(value)
	}
	return out, lines.Err()
}

// openPasswords names the flags whose values hold a password that others on the machine
// can read in the list of processes.
func openPasswords(cmd *cobra.Command) []string {
	var out []string
	cmd.Flags().Visit(func(f *pflag.Flag) {
		_, rest, isURL := strings.Cut(f.Value.String(), "://")
		who, _, has := strings.Cut(rest, "@")
		if isURL && has && strings.Contains(who, ":") && onCommandLine(f.Name) {
			out = append(out, f.Name)
		}
	})
	return out
}

func onCommandLine(flag string) bool {
	for _, arg := range os.Args {
		if arg == "--"+flag || strings.HasPrefix(arg, "--"+flag+"=") {
			return true
		}
	}
	return false
}
