package main

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

func personCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "person", Short: "People who can sign in"}
	var url, stateURL, name, role string
	var administrator, elsewhere bool
	add := &cobra.Command{
		Use:   "add EMAIL",
		Short: "Add somebody; the password is asked for, or read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			state, err := openState(cmd.Context(), cmp.Or(stateURL, url))
			if err != nil {
				return err
			}
			defer state.Close()
			password := ""
			if !elsewhere {
				if password, err = readPassword(cmd.Context()); err != nil {
					return err
				}
				if password == "" {
					return errors.New(
						"the password is empty; type one, or use --no-password for somebody who signs in with an identity provider",
					)
				}
			}
			if name == "" {
				name, _, _ = strings.Cut(args[0], "@")
			}
			as := store.Role(role)
			if administrator {
				as = store.Administrator
			}
			if as != store.Reader && as != store.Analyst && as != store.Administrator {
				return fmt.Errorf("there is no role %q; choose reader, analyst or administrator", role)
			}
			if _, err := people.NewDesk(state).AddChanging(cmd.Context(), args[0], name, password, as); err != nil {
				return err
			}
			fmt.Println(name, "can sign in as", args[0])
			return nil
		},
	}
	add.Flags().StringVar(
		&url, "database-url", "", "database of Gavrik's state, unless --state-url names another",
	)
	add.Flags().StringVar(
		&stateURL, "state-url", "", "database of Gavrik's own state (default: that of --database-url)",
	)
	add.Flags().StringVar(&name, "name", "", "name shown to others")
	add.Flags().BoolVar(&administrator, "administrator", false, "the same as --role administrator")
	add.Flags().StringVar(&role, "role", string(store.Analyst), "reader, analyst or administrator")
	add.Flags().BoolVar(&elsewhere, "no-password", false, "signs in with an identity provider only")
	cmd.AddCommand(add)
	return cmd
}

// readPassword asks at a terminal, without showing what is typed, or reads a line. It
// ends with the context: the terminal shows again what is typed then.
func readPassword(ctx context.Context) (string, error) {
	fd := int(os.Stdin.Fd())
	if !term.IsTerminal(fd) {
		line, err := bufio.NewReader(os.Stdin).ReadString('\n')
		if err != nil && line == "" {
			return "", errors.New("no password on standard input")
		}
		return strings.TrimRight(line, "\r\n"), nil
	}
	before, err := term.GetState(fd)
	if err != nil {
		return "", fmt.Errorf("the terminal cannot be read: %w", err)
	}
	type typed struct {
		text []byte
		err  error
	}
	done := make(chan typed, 1)
	fmt.Print("Password: ")
	go func() { // it may never return, and ends with the program
		text, err := term.ReadPassword(fd)
		done <- typed{text, err}
	}()
	select {
	case t := <-done:
		fmt.Println()
		return string(t.text), t.err
	case <-ctx.Done():
		fmt.Println()
		return "", errors.Join(term.Restore(fd, before), ctx.Err())
	}
}
