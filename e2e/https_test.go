package e2e

import (
	"bufio"
	"fmt"
	"net"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ownAddress is an address of this machine that is not loopback, "" where it has none.
func ownAddress() string {
	addrs, _ := net.InterfaceAddrs()
	for _, a := range addrs {
		if n, ok := a.(*net.IPNet); ok && n.IP.To4() != nil && !n.IP.IsLoopback() && !n.IP.IsLinkLocalUnicast() {
			return n.IP.String()
		}
	}
	return ""
}

// TestATabletOnTheShopsNetwork reaches the shop under the machine's own address: over plain HTTP it is told how to
// trust it, over HTTPS everything works that a secure page alone may do. That the certificate itself holds is the
// trust package's test; here the browser is told to take it.
func TestATabletOnTheShopsNetwork(t *testing.T) {
	t.Parallel()
	ip := ownAddress()
	if ip == "" {
		t.Skip("this machine has no address but loopback")
	}
	port := freePort(t)
	env := append(os.Environ(), "GEMINATE_DSN=", "GEMINATE_DATA="+t.TempDir())
	cmd := exec.Command(binary, "serve", "--listen", fmt.Sprintf(":%d", port))
	cmd.Env = env
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Signal(syscall.SIGTERM); _ = cmd.Wait() })
	lines := bufio.NewScanner(out)
	said := ""
	for !strings.Contains(said, "Fingerprint") && lines.Scan() {
		said += lines.Text() + "\n"
	}
	assert.Contains(t, said, fmt.Sprintf("https://%s:%d", ip, port))
	add := exec.Command(binary, "account", "add", "Ana", "--role", "technician")
	add.Env, add.Stdin = env, strings.NewReader("correct horse lamp\n")
	text, err := add.CombinedOutput()
	require.NoError(t, err, string(text))

	p := open(t, fmt.Sprintf("http://%s:%d/", ip, port), 800, 1280)
	p.until("the page on trust", `document.querySelector('a[href="/shop-authority.crt"]')`)
	shown, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.body.innerText`))
	require.NoError(t, err)
	_, print, _ := strings.Cut(said, "Fingerprint: ")
	assert.Contains(t, shown, strings.TrimSpace(print))
	p.shot("trust")
	p.do(chromedp.Click(chromedp.CSS(`a.second`)))
	p.see("sign-in")
	p.until("a secure page", `isSecureContext && location.protocol === "https:" && !!navigator.serviceWorker`)
	p.fill("name", "ana")
	p.fill("password", "correct horse lamp")
	p.key("\r")
	newJob(p, "Tablet's vehicle", "car-diagonal-vacuum")
	p.goTo("bleed")
	p.has("at-wheel", "RR")
	for range 3 {
		p.stroke()
	}
	p.has("count", "3")
	p.stored()
	cookie, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.cookie`))
	require.NoError(t, err)
	assert.NotContains(t, cookie, "session", "what signs in is not for scripts")
}
