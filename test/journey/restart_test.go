package journey

import (
	"net"
	"net/http/httptest"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A server that is restarted in the middle of work is waited for: what was done meanwhile
// is worked out and kept once it is back.
func TestAServerRestartIsSurvived(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	before := p.text(`[data-kept]`)
	address, handler := g.Server.Listener.Addr().String(), g.Server.Config.Handler
	g.Server.CloseClientConnections()
	g.Server.Close()
	p.do(
		keys("]", "["), chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Paid')]`),
		keys("t"), see(`[role=alert]`),
	)
	require.Contains(t, p.text(`[role=alert]`), "The server does not answer.")
	require.Equal(t, before, p.text(`[data-kept]`), "what was answered last stays")

	listener, err := net.Listen("tcp", address)
	require.NoError(t, err)
	again := httptest.NewUnstartedServer(handler)
	require.NoError(t, again.Listener.Close())
	again.Listener = listener
	again.Start()
	t.Cleanup(again.Close)
	p.do(chromedp.WaitNotPresent(chromedp.CSS(`[role=alert]`)))
	p.settled()
	require.NotContains(
		t, p.text(`[data-brief]`), "total paid", "the total was taken away while nobody answered",
	)
	p.do(chromedp.WaitVisible(chromedp.CSS(`[data-changed][title^="Kept on the server"]`)))
	require.Equal(t, "1", g.Ask(t, `SELECT count(*)::text FROM gavrik.drafts`))
}
