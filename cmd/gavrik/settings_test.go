package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
)

// A flag holds before a variable of the environment, and that before the file.
func TestSettingsComeFromThreePlaces(t *testing.T) {
	read := func(args ...string) (listen, zone, refresh string, err error) {
		cmd := root()
		for _, c := range cmd.Commands() {
			if c.Name() == "serve" {
				c.RunE = func(c *cobra.Command, _ []string) error {
					get := func(name string) string { return c.Flags().Lookup(name).Value.String() }
					listen, zone, refresh = get("listen"), get("zone"), get("refresh")
					return nil
				}
			}
		}
		cmd.SetArgs(append([]string{"serve"}, args...))
		return listen, zone, refresh, cmd.Execute()
	}
	settings := file(
		t, "gavrik.conf",
		"# where\nlisten = 127.0.0.1:1\nzone = Europe/Lisbon\nrefresh = 1h\nname = of another command\n",
	)
	t.Setenv("GAVRIK_ZONE", "Europe/Berlin")
	listen, zone, refresh, err := read("--config", settings, "--refresh", "2m")
	require.NoError(t, err)
	require.Equal(t, []string{"127.0.0.1:1", "Europe/Berlin", "2m0s"}, []string{listen, zone, refresh})
	t.Setenv("GAVRIK_REFRESH", "soon")
	_, _, _, err = read()
	require.ErrorContains(t, err, "GAVRIK_REFRESH")
	for text, want := range map[string]string{
		"listen\n": "line 1: write a setting as name = value", "lisen = x": `there is no setting "lisen"`,
	} {
		_, _, _, err = read("--config", file(t, "bad.conf", text), "--refresh", "1m")
		require.ErrorContains(t, err, want)
	}
}

// While the records are loaded, people are told how far that is; a supervisor knows that
// the process stands, and not to send work yet. With a certificate, all of it is HTTPS.
func TestAStartAnswersFromTheFirstMoment(t *testing.T) {
	url := ferry(t)
	certificate, key := pair(t)
	address, inner := freeAddress(t), freeAddress(t)
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() {
		_, err := gavrik(
			t, ctx, "serve", "--database-url", url, "--schema", "ferry", "--listen", address, "--metrics-listen",
			inner, "--tls-certificate", certificate, "--tls-key", key,
		)
		ended <- err
	}()
	client := &http.Client{
		Transport:     &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
	get := func(where string) (int, string, http.Header) {
		res, err := client.Get(where)
		if err != nil {
			return 0, "", nil
		}
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(text), res.Header
	}
	seen := map[int]bool{}
	require.Eventually(t, func() bool {
		code, text, _ := get("https://" + address + "/readyz")
		if seen[code] = true; code == http.StatusServiceUnavailable {
			require.Contains(t, text, "Gavrik is starting and loads the records")
			live, _, _ := get("https://" + address + "/livez")
			require.Equal(t, http.StatusOK, live)
		}
		return code == http.StatusOK
	}, time.Minute, time.Millisecond)
	require.True(t, seen[http.StatusServiceUnavailable], "it answered before it was ready")
	_, _, head := get("https://" + address + "/")
	require.Contains(t, head.Get("Strict-Transport-Security"), "max-age")
	code, _, _ := get("https://" + address + "/metrics")
	require.Equal(t, http.StatusNotFound, code, "metrics are not for everybody")
	code, text, _ := get("http://" + inner + "/metrics")
	require.Equal(t, http.StatusOK, code)
	require.Contains(t, text, "gavrik_cache_results_bytes")
	stop()
	require.NoError(t, <-ended)
}

func freeAddress(t *testing.T) string {
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer free.Close()
	return free.Addr().String()
}

// pair makes a certificate of loopback's own.
func pair(t *testing.T) (certificate, key string) {
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{
		SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour),
		IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
	}
	made, err := x509.CreateCertificate(rand.Reader, template, template, &private.PublicKey, private)
	require.NoError(t, err)
	secret, err := x509.MarshalECPrivateKey(private)
	require.NoError(t, err)
	dir := t.TempDir()
	for i, b := range []*pem.Block{{Type: "CERTIFICATE", Bytes: made}, {Type: "EC PRIVATE KEY", Bytes: secret}} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprint(i)), pem.EncodeToMemory(b), 0o600))
	}
	return filepath.Join(dir, "0"), filepath.Join(dir, "1")
}

// The settings that a small installation begins with are read, and a server runs by them.
func TestTheSettingsOfASmallInstallation(t *testing.T) {
	secret := file(t, "mail-password", "secret\n")
	free := func() string {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		defer l.Close()
		return l.Addr().String()
	}
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	watched, ended := free(), make(chan error, 1)
	state := pgtest.Database(t)
	_, err := gavrik(
		t, ctx, "person", "add", "tamsin@marrowby.example", "--no-password", "--config", "../../deploy/gavrik.conf",
		"--state-url", state,
	)
	require.NoError(t, err)
	go func() {
		_, err := gavrik(
			t, ctx, "serve", "--config", "../../deploy/gavrik.conf", "--database-url", ferry(t), "--schema", "ferry",
			"--state-url", state, "--listen", free(), "--metrics-listen", watched, "--keep-records", t.TempDir(),
			"--mail-password-file", secret, "--drain", "0s",
		)
		ended <- err
	}()
	require.Eventually(t, func() bool {
		select {
		case err := <-ended:
			require.NoError(t, err)
		default:
		}
		res, err := http.Get("http://" + watched + "/readyz")
		if err != nil {
			return false
		}
		defer res.Body.Close()
		return res.StatusCode == http.StatusOK
	}, 30*time.Second, 50*time.Millisecond)
	stop()
	require.NoError(t, <-ended)
}
