package main

import (
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/pflag"

	"gavrik/internal/deliver"
)

// deliverFlags say how deliveries leave.
type deliverFlags struct {
	server, passwordFile, security string
	mail                           deliver.MailServer
	privateHooks                   bool
}

func (f *deliverFlags) add(flags *pflag.FlagSet) {
	flags.StringVar(&f.server, "mail-server", "", "host:port of the mail server that deliveries are handed to (default: none, so that nothing is mailed)")
	flags.StringVar(&f.mail.From, "mail-from", "", "whom letters are from, as \"Gavrik <reports@company.example>\"")
	flags.StringVar(&f.mail.User, "mail-user", "", "name to sign in with at the mail server (default: without)")
	flags.StringVar(&f.passwordFile, "mail-password-file", "", "file that holds the password for it")
	flags.StringVar(&f.security, "mail-security", "starttls", "how the line to the mail server is kept: starttls, tls, or none for a server on this machine")
	flags.BoolVar(&f.privateHooks, "allow-private-hooks", false, "let deliveries be posted to addresses of private networks, and without HTTPS")
}

// read is the settings with the address at which people reach the server, or what is wrong with them.
func (f *deliverFlags) read(at string) (deliver.Options, url.URL, error) {
	out := deliver.Options{PrivateHooks: f.privateHooks}
	var public url.URL
	if at != "" {
		u, err := url.Parse(at)
		if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" || u.Path != "" && u.Path != "/" {
			return out, public, fmt.Errorf("%q is no address of a server; write --public-url as https://gavrik.company.example", at)
		}
		u.Path = ""
		public = *u
	}
	if f.server == "" {
		return out, public, nil
	}
	host, port, err := net.SplitHostPort(f.server)
	number, wrong := strconv.Atoi(port)
	if err != nil || wrong != nil || host == "" {
		return out, public, fmt.Errorf("%q is no mail server; write --mail-server as mail.company.example:587", f.server)
	}
	if at == "" {
		return out, public, errors.New("letters lead back here and can be stopped by a link; say where the server is reached with --public-url")
	}
	m := f.mail
	m.Host, m.Port, m.Security = host, number, deliver.Security(f.security)
	if f.passwordFile != "" {
		password, err := os.ReadFile(f.passwordFile)
		if err != nil {
			return out, public, fmt.Errorf("the password for the mail server: %w", err)
		}
		m.Password = strings.TrimSpace(string(password))
	}
	out.Mail = &m
	return out, public, m.Check()
}
