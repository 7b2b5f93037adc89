package deliver

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/export"
)

// drawnLetter is one whose lines say anything at all.
func drawnLetter(t *rapid.T) *export.Letter {
	text := rapid.StringMatching(`[<>&"'a-zé€ \n\t\x00{}]{0,50}`)
	l := &export.Letter{About: export.About{Title: text.Draw(t, "title"), Brief: text.Draw(t, "brief")}, Labelled: rapid.Bool().Draw(t, "labelled")}
	for range rapid.IntRange(1, 4).Draw(t, "columns") {
		l.Headings = append(l.Headings, export.LetterCell{Text: text.Draw(t, "heading"), Right: rapid.Bool().Draw(t, "right")})
	}
	for range rapid.IntRange(1, 5).Draw(t, "lines") {
		line := export.LetterLine{Level: rapid.IntRange(0, 3).Draw(t, "level"), Label: text.Draw(t, "label"), Count: "1"}
		for _, h := range l.Headings {
			line.Cells = append(line.Cells, export.LetterCell{Text: text.Draw(t, "cell"), Right: h.Right})
		}
		l.Lines = append(l.Lines, line)
	}
	return l
}

// Whatever stands in records, a letter has one line for each of its lines, in columns that stand beneath
// each other, and nothing of a record becomes a part of the page.
func TestLettersHoldWhatRecordsSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := drawnLetter(t)
		var w Written
		require.NoError(t, w.fill(letterPage{View: l, Why: "Because.", Stop: "https://gavrik.example/stop/x"}))
		columns := len(l.Headings)
		if l.Labelled {
			columns++
		}
		require.Equal(t, len(l.Lines)*columns, strings.Count(w.HTML, "<td"))
		require.Equal(t, columns, strings.Count(w.HTML, "<th "))
		for _, tag := range []string{"<script", "<a ", "<h1"} {
			require.Equal(t, map[string]int{"<a ": 1, "<h1": 1}[tag], strings.Count(w.HTML, tag))
		}
		rows := strings.Split(strings.TrimSuffix(table(l), "\n"), "\n")
		require.Len(t, rows, len(l.Lines)+1)
		for _, row := range rows {
			require.LessOrEqual(t, utf8.RuneCountInString(row), columns*(mostText+2))
		}
	})
}

func TestDomainsOutside(t *testing.T) {
	for text, want := range map[string]string{
		"": "", "@Quay.example; harbour.example\n": "quay.example, harbour.example", "*": "*",
	} {
		got, err := ReadOutside(text)
		require.NoError(t, err)
		require.Equal(t, want, got.String())
	}
	for _, wrong := range []string{"quay", "a@quay.example", "https://quay.example", "*.example"} {
		_, err := ReadOutside(wrong)
		require.ErrorContains(t, err, "is no domain", wrong)
	}
	only := Outside{"quay.example"}
	require.True(t, only.Allows("a@quay.example"))
	for _, other := range []string{"a@sub.quay.example", "a@quay.example.evil.example", "quay.example", ""} {
		require.False(t, only.Allows(other), other)
	}
}

// Addresses of private networks are none of the open net, however they are written.
func TestPrivateNetworks(t *testing.T) {
	for _, address := range []string{
		"https://10.0.0.1/", "https://172.16.3.4:8443/", "https://192.168.1.1/", "https://127.0.0.1/", "https://[::1]/",
		"https://169.254.169.254/latest", "https://100.64.0.1/", "https://[fd00::1]/", "https://[fe80::1]/",
		"https://[::ffff:10.0.0.1]/", "https://0.0.0.0/", "https://224.0.0.1/",
	} {
		require.ErrorIs(t, CheckHook(address, false), errPrivate, address)
		require.NoError(t, CheckHook(address, true), address)
	}
	for _, address := range []string{"https://93.184.216.34/", "https://[2606:2800:220:1::1]/", "https://quay.example/in?x=1"} {
		require.NoError(t, CheckHook(address, false), address)
	}
	for _, wrong := range []string{"", "quay.example", "https://", "javascript:alert(1)", "https://a:b@quay.example/"} {
		require.Error(t, CheckHook(wrong, true), wrong)
	}
}

// A signature is what the Standard Webhooks specification has of its own example.
func TestSignatures(t *testing.T) {
	got, err := signed("whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw", "msg_p5jXN8AQM9LWM0D4loKWxJek", "1614265330", []byte(`{"test": 2432232314}`))
	require.NoError(t, err)
	require.Equal(t, "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=", got)
	_, err = signed("whsec_?", "x", "1", nil)
	require.ErrorContains(t, err, "make a new one")
}
