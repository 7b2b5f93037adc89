package main

import (
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"strings"

	"github.com/spf13/pflag"

	"gavrik/internal/web"
)

// safetyFlags say how requests reach the server, and who may read what it says of itself.
type safetyFlags struct {
	certificate, key string
	proxies          []string
	secure           bool
	metricsTokenFile string
}

func (f *safetyFlags) add(flags *pflag.FlagSet) {
	flags.StringVar(
		&f.certificate, "tls-certificate", "",
		"file of the certificate to serve HTTPS with, its chain behind it (PEM)",
	)
	flags.StringVar(&f.key, "tls-key", "", "file of the certificate's key (PEM)")
	flags.StringSliceVar(
		&f.proxies, "trusted-proxy", nil,
		"address or network of a proxy before the server, as 10.0.0.7 or 10.1.0.0/16: its word on where a request comes from is taken",
	)
	flags.BoolVar(
		&f.secure, "secure-cookies", false,
		"keep cookies to HTTPS; on by itself with a certificate or a trusted proxy",
	)
	flags.StringVar(
		&f.metricsTokenFile, "metrics-token-file", "",
		"file of the token that lets programs read /metrics and /api/openapi.json; without it they are on --metrics-listen only",
	)
}

// safetyOptions are the flags, read.
type safetyOptions struct {
	tls          *tls.Config // nil serves HTTP
	secure       bool
	proxies      web.Proxies
	metricsToken string
}

func (f *safetyFlags) read() (out safetyOptions, err error) {
	if (f.certificate == "") != (f.key == "") {
		return out, errors.New("HTTPS needs both --tls-certificate and --tls-key")
	}
	if f.certificate != "" {
		pair, err := tls.LoadX509KeyPair(f.certificate, f.key)
		if err != nil {
			return out, fmt.Errorf("the certificate cannot be used: %w", err)
		}
		out.tls = &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}
	}
	if out.proxies, err = web.ParseProxies(f.proxies); err != nil {
		return out, err
	}
	if f.metricsTokenFile != "" {
		text, err := os.ReadFile(f.metricsTokenFile)
		if err != nil {
			return out, fmt.Errorf("the token for the metrics cannot be read: %w", err)
		}
		if out.metricsToken = strings.TrimSpace(string(text)); len(out.metricsToken) < 16 {
			return out, fmt.Errorf("%s: a token for the metrics has at least 16 characters", f.metricsTokenFile)
		}
	}
	out.secure = f.secure || out.tls != nil || len(out.proxies) > 0
	return out, nil
}

func (o safetyOptions) scheme() string {
	if o.tls != nil {
		return "https"
	}
	return "http"
}

func (o safetyOptions) serve(s *http.Server, l net.Listener) error {
	if o.tls != nil {
		return s.ServeTLS(l, "", "") // the certificate is in the settings
	}
	return s.Serve(l)
}
