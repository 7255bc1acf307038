package trust

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheAuthorityIsMadeOnceAndKept(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "trust")
	one, err := Open(dir)
	require.NoError(t, err)
	for file, mode := range map[string]os.FileMode{dir: 0o700, filepath.Join(dir, "shop-authority.key"): 0o600} {
		info, err := os.Stat(file)
		require.NoError(t, err)
		assert.Equal(t, mode, info.Mode().Perm(), file)
	}
	two, err := Open(dir)
	require.NoError(t, err)
	assert.Equal(t, one.Fingerprint(), two.Fingerprint())
	assert.Len(t, one.Fingerprint(), 95)
	require.NoError(t, os.Remove(filepath.Join(dir, "shop-authority.key")))
	_, err = Open(dir)
	assert.ErrorContains(t, err, "key")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "shop-authority.crt"), []byte("nonsense"), 0o600))
	_, err = Open(dir)
	assert.ErrorContains(t, err, "no certificate")
}

// Source: RFC 5280 as Go's own verifier reads it.
func TestTheServerCertificateHoldsForEveryNameAndIsRenewed(t *testing.T) {
	a, err := Open(t.TempDir())
	require.NoError(t, err)
	now := time.Now()
	a.now = func() time.Time { return now }
	ips := []net.IP{net.IPv4(192, 168, 7, 20)}
	a.names = func() ([]string, []net.IP) { return []string{"localhost", "bay-server", "bay-server.local"}, ips }
	roots := x509.NewCertPool()
	roots.AddCert(a.Cert)
	holds := func(name string) error {
		c, err := a.current()
		require.NoError(t, err)
		leaf, err := x509.ParseCertificate(c.Certificate[0])
		require.NoError(t, err)
		assert.LessOrEqual(t, leaf.NotAfter.Sub(leaf.NotBefore), 398*24*time.Hour, "browsers refuse longer ones")
		_, err = leaf.Verify(x509.VerifyOptions{DNSName: name, Roots: roots, CurrentTime: now})
		return err
	}
	for _, name := range []string{"localhost", "bay-server.local", "192.168.7.20"} {
		assert.NoError(t, holds(name), name)
	}
	assert.Error(t, holds("192.168.7.21"))
	first, _ := a.current()
	again, _ := a.current()
	assert.Same(t, first, again)
	ips = append(ips, net.IPv4(192, 168, 7, 21)) // another cable
	assert.NoError(t, holds("192.168.7.21"))
	now = now.AddDate(0, 0, serverDays-renewDays+1)
	renewed, _ := a.current()
	assert.NotSame(t, first, renewed)
	assert.NoError(t, holds("localhost"))
	assert.Equal(t, []string{"https://192.168.7.20:8470", "https://192.168.7.21:8470"}, a.Addresses("8470"))
}

// RFC 5280, 4.2.1.10: whoever has the authority's key can speak for the shop's own network, and for nothing else.
func TestTheAuthoritySpeaksForNobodyElse(t *testing.T) {
	a, err := Open(t.TempDir())
	require.NoError(t, err)
	roots := x509.NewCertPool()
	roots.AddCert(a.Cert)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	sign := func(name string) error {
		template := &x509.Certificate{
			SerialNumber: big.NewInt(7),
			NotBefore:    time.Now().Add(-time.Hour),
			NotAfter:     time.Now().Add(time.Hour),
			KeyUsage:     x509.KeyUsageDigitalSignature,
			ExtKeyUsage:  []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		}
		if ip := net.ParseIP(name); ip != nil {
			template.IPAddresses = []net.IP{ip}
		} else {
			template.DNSNames = []string{name}
		}
		der, err := x509.CreateCertificate(rand.Reader, template, a.Cert, key.Public(), a.key)
		require.NoError(t, err)
		leaf, err := x509.ParseCertificate(der)
		require.NoError(t, err)
		_, err = leaf.Verify(x509.VerifyOptions{DNSName: name, Roots: roots})
		return err
	}
	for _, ours := range []string{"localhost", "tablet.local", "192.168.1.9", "10.0.0.4"} {
		assert.NoError(t, sign(ours), ours)
	}
	for _, other := range []string{"bank.example", "local.bank.example", "203.0.113.7"} {
		assert.Error(t, sign(other), other)
	}
	assert.True(t, a.Cert.PermittedDNSDomainsCritical, "one that does not understand it trusts nothing")
	assert.LessOrEqual(t, a.Cert.NotAfter.Sub(a.Cert.NotBefore), 6*366*24*time.Hour)
	// An address of no private network is left out of the server's own, not put in to spoil the rest.
	a.names = func() ([]string, []net.IP) {
		return []string{"localhost", "shop.example"}, []net.IP{net.IPv4(203, 0, 113, 7), net.IPv4(192, 168, 1, 2)}
	}
	c, err := a.current()
	require.NoError(t, err)
	leaf, err := x509.ParseCertificate(c.Certificate[0])
	require.NoError(t, err)
	assert.Equal(t, []string{"localhost"}, leaf.DNSNames)
	assert.Len(t, leaf.IPAddresses, 1)
	_, err = leaf.Verify(x509.VerifyOptions{DNSName: "192.168.1.2", Roots: roots})
	assert.NoError(t, err)
}

// serve runs an authority's listener and gives its address.
func serve(t *testing.T, a *Authority) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	_, port, _ := net.SplitHostPort(l.Addr().String())
	secure := Listen(l, a.Config(), a.Page(port, func(k string) string { return k }))
	s := &http.Server{
		Handler:           http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = io.WriteString(w, "inside") }),
		ReadHeaderTimeout: time.Second,
	}
	done := make(chan error, 1)
	go func() { done <- s.Serve(secure) }()
	t.Cleanup(func() {
		require.NoError(t, s.Shutdown(context.Background()))
		assert.ErrorIs(t, <-done, http.ErrServerClosed)
	})
	return l.Addr().String()
}

func TestOneAddressSpeaksHTTPSAndPlainHTTPGetsOnePage(t *testing.T) {
	a, err := Open(t.TempDir())
	require.NoError(t, err)
	addr := serve(t, a)
	roots := x509.NewCertPool()
	roots.AddCert(a.Cert)
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: roots}}}
	read := func(c *http.Client, url string) (int, string, http.Header) {
		r, err := c.Get(url)
		require.NoError(t, err)
		defer func() { _ = r.Body.Close() }()
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		return r.StatusCode, string(body), r.Header
	}
	_, body, _ := read(client, "https://"+addr+"/")
	assert.Equal(t, "inside", body)
	_, err = http.Get("https://" + addr + "/")
	assert.ErrorContains(t, err, "certificate", "not trusted before it was told to")
	for _, path := range []string{"/", "/api/session", "/jobs/x/bleed"} {
		_, body, h := read(http.DefaultClient, "http://"+addr+path)
		assert.Contains(t, body, "trust.title", path)
		assert.Contains(t, body, "https://"+addr+"/")
		assert.Contains(t, body, a.Fingerprint())
		assert.Contains(t, body, "<svg")
		assert.NotContains(t, body, "inside")
		assert.Contains(t, h.Get("Content-Security-Policy"), "default-src 'none'")
	}
	_, der, h := read(http.DefaultClient, "http://"+addr+CertPath)
	assert.Equal(t, string(a.Cert.Raw), der)
	assert.Equal(t, "application/x-x509-ca-cert", h.Get("Content-Type"))
	r, err := http.Post("http://"+addr+"/api/session", "application/json", strings.NewReader(`{}`))
	require.NoError(t, err)
	_ = r.Body.Close()
	assert.Equal(t, http.StatusUpgradeRequired, r.StatusCode, "no password is taken in plain")
	// A foreign Host does not lead anyone away.
	conn, err := net.Dial("tcp", addr)
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, _ = fmt.Fprintf(conn, "GET / HTTP/1.1\r\nHost: elsewhere.example\r\nConnection: close\r\n\r\n")
	answer, _ := io.ReadAll(bufio.NewReader(conn))
	assert.NotContains(t, string(answer), "elsewhere.example")
}

func TestSilentAndBrokenCallersHoldNobodyUp(t *testing.T) {
	a, err := Open(t.TempDir())
	require.NoError(t, err)
	addr := serve(t, a)
	for _, first := range []string{"", "\x16", "\x00\x01", "GET"} {
		c, err := net.Dial("tcp", addr)
		require.NoError(t, err)
		defer func() { _ = c.Close() }()
		_, _ = io.WriteString(c, first)
	}
	r, err := http.Get("http://" + addr + "/")
	require.NoError(t, err)
	_ = r.Body.Close()
	assert.Equal(t, http.StatusOK, r.StatusCode)
}

func TestCodesAreDrawn(t *testing.T) {
	svg, err := SVG("https://192.168.7.20:8470/")
	require.NoError(t, err)
	assert.Contains(t, svg, "<path")
	text, err := Text("https://192.168.7.20:8470/")
	require.NoError(t, err)
	assert.Greater(t, strings.Count(text, "\n"), 12)
	_, err = SVG(strings.Repeat("x", 5000))
	assert.Error(t, err)
}
