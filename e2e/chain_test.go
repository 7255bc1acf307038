package e2e

import (
	"os"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cli runs a command beside a running server.
func (a *app) cli(in string, args ...string) string {
	a.t.Helper()
	cmd := exec.Command(binary, args...)
	cmd.Env = append(os.Environ(), "GEMINATE_DATA="+a.data, "GEMINATE_DSN=")
	cmd.Stdin = strings.NewReader(in)
	out, err := cmd.CombinedOutput()
	require.NoError(a.t, err, "%s", out)
	return string(out)
}

// A second shop is added beside the running one: its lead comes by a link, its people by its code; each sees its own
// vehicles; the chain's owner sees both shops' figures and no job.
func TestAChainOfShops(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	p.see("sign-in")
	p.gone("shop-code")
	out := a.cli("", "shops", "add", "north", "--name", "Northgate Brakes", "--lead", "Ragnild")
	link := regexp.MustCompile(`/welcome/\S+`).FindString(out)
	require.NotEmpty(t, link, out)
	a.cli("nine quiet herons on a fence\n", "account", "add", "own", "--role", "owner", "--display", "Own Er")

	lead := open(t, a.url+link, 1280, 800)
	lead.fill("new-password", "four tall masts in the haze")
	lead.click("password-save")
	lead.see("new-job")
	lead.shot("chain-north")
	lead.click("sign-out")
	lead.see("shop-code")
	lead.fill("shop-code", "north")
	lead.fill("name", "ragnild")
	lead.fill("password", "four tall masts in the haze")
	lead.shot("chain-sign-in")
	lead.click("sign-in")
	lead.see("new-job")

	owner := open(t, a.url, 1280, 800)
	owner.see("shop-code")
	owner.fill("name", "own")
	owner.fill("password", "nine quiet herons on a fence")
	owner.click("sign-in")
	owner.see("chain")
	owner.has("chain", "Northgate Brakes")
	owner.shot("chain-figures")
	assert.Contains(t, a.cli("", "check"), "Everything that is kept is what the logs come to.")
	assert.Contains(t, a.cli("", "shops"), "Northgate Brakes")
}
