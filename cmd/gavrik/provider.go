package main

import (
	"errors"
	"fmt"
	"net/url"
	"os"
	"strings"

	"github.com/spf13/pflag"

	"gavrik/internal/people"
	"gavrik/internal/store"
	"gavrik/internal/web"
)

// providerFlags say which identity provider signs people in beside passwords.
type providerFlags struct {
	issuer, client, secretFile, name, public, join string
}

func (f *providerFlags) add(flags *pflag.FlagSet) {
	flags.StringVar(
		&f.issuer, "oidc-issuer", "", "identity provider (OpenID Connect) that signs people in beside passwords",
	)
	flags.StringVar(&f.client, "oidc-client", "", "what the provider calls Gavrik")
	flags.StringVar(
		&f.secretFile, "oidc-secret-file", "", "file that holds the secret that Gavrik shares with the provider",
	)
	flags.StringVar(&f.name, "oidc-name", "your organisation", "what the sign-in page calls the provider")
	flags.StringVar(
		&f.join, "oidc-join", "",
		"role (reader or analyst) of people whom the provider knows and nobody has added; without it they are refused",
	)
	flags.StringVar(
		&f.public, "public-url", "", "address at which people reach Gavrik; links in letters lead to it, and the identity provider sends people back to it",
	)
}

// provider is the one that the flags name, or nil.
func (f *providerFlags) provider() (*people.Provider, error) {
	if f.issuer == "" {
		return nil, nil
	}
	public, err := url.Parse(f.public)
	switch {
	case f.client == "" || f.secretFile == "":
		return nil, errors.New("an identity provider needs --oidc-client and --oidc-secret-file, too")
	case err != nil || public.Host == "":
		return nil, errors.New(
			"an identity provider needs --public-url, the address at which people reach Gavrik, such as https://gavrik.example",
		)
	case f.join != "" && f.join != string(store.Reader) && f.join != string(store.Analyst):
		return nil, fmt.Errorf("--oidc-join is reader or analyst, not %q", f.join)
	}
	secret, err := os.ReadFile(f.secretFile)
	if err != nil {
		return nil, fmt.Errorf("the secret for the identity provider: %w", err)
	}
	return people.NewProvider(people.ProviderOptions{
		Name: f.name, Issuer: f.issuer, ClientID: f.client, ClientSecret: strings.TrimSpace(string(secret)),
		Redirect: strings.TrimSuffix(f.public, "/") + web.ProviderReturn, Join: store.Role(f.join),
	}), nil
}
