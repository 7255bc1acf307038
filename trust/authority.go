// Package trust lets a shop's own network be reached over HTTPS with nobody else's help: a certificate authority of
// the shop's own, made once and kept in its data directory, and a server certificate under it for every name and
// address this machine has, made anew by itself. It uses Go's standard library alone.
package trust

import (
	"crypto"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

const (
	// An authority lasts as long as a shop's tablets may be asked to trust it once.
	authorityYears = 5
	// A server certificate is short-lived, since it costs nothing to make another; browsers refuse much longer ones.
	serverDays = 90
	renewDays  = 30
	// backdated allows for clocks that run behind.
	backdated = 24 * time.Hour
)

// Authority is the shop's own.
type Authority struct {
	Cert *x509.Certificate
	key  *ecdsa.PrivateKey
	now  func() time.Time

	mu     sync.Mutex
	names  func() ([]string, []net.IP)
	server *tls.Certificate
	until  time.Time
	under  string // the names and addresses the certificate is for
}

// Open takes the authority kept in a directory, or makes one there: the folder 0700, the key 0600.
func Open(dir string) (*Authority, error) {
	a := &Authority{now: time.Now, names: Local}
	certFile, keyFile := filepath.Join(dir, "shop-authority.crt"), filepath.Join(dir, "shop-authority.key")
	raw, err := os.ReadFile(certFile)
	if errors.Is(err, os.ErrNotExist) {
		return a, a.create(dir, certFile, keyFile)
	}
	if err != nil {
		return nil, fmt.Errorf("trust: %w", err)
	}
	if a.Cert, err = readCert(raw); err != nil {
		return nil, fmt.Errorf("trust: %s: %w", certFile, err)
	}
	if a.key, err = readKey(keyFile); err != nil {
		return nil, err
	}
	if a.now().After(a.Cert.NotAfter) {
		return nil, fmt.Errorf(
			"trust: the shop's authority ended on %s. Move %s away to have another made; every device must then trust that one",
			a.Cert.NotAfter.Format(time.DateOnly),
			dir,
		)
	}
	return a, nil
}

func readCert(raw []byte) (*x509.Certificate, error) {
	block, _ := pem.Decode(raw)
	if block == nil || block.Type != "CERTIFICATE" {
		return nil, errors.New("no certificate in it")
	}
	return x509.ParseCertificate(block.Bytes)
}

func readKey(file string) (*ecdsa.PrivateKey, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("trust: the authority's key: %w", err)
	}
	block, _ := pem.Decode(raw)
	if block == nil {
		return nil, fmt.Errorf("trust: %s holds no key", file)
	}
	k, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, fmt.Errorf("trust: %s: %w", file, err)
	}
	key, ok := k.(*ecdsa.PrivateKey)
	if !ok {
		return nil, fmt.Errorf("trust: %s holds another kind of key", file)
	}
	return key, nil
}

func (a *Authority) create(dir, certFile, keyFile string) (err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	if a.key, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader); err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	host, _ := os.Hostname()
	names, ips := a.names()
	serial, err := serialNumber()
	if err != nil {
		return err
	}
	template := &x509.Certificate{
		SerialNumber: serial,
		Subject:      pkix.Name{CommonName: strings.TrimSpace("Geminate shop " + host), Organization: []string{"Geminate"}},
		NotBefore:    a.now().Add(-backdated),
		NotAfter:     a.now().AddDate(authorityYears, 0, 0),
		// It speaks for a shop's own network and for nothing else: whoever gets its key cannot be anybody's bank.
		PermittedDNSDomainsCritical: true,
		PermittedDNSDomains:         permittedNames(names),
		PermittedIPRanges:           permittedAddresses(ips),
		IsCA:                        true,
		BasicConstraintsValid:       true,
		MaxPathLen:                  0,
		MaxPathLenZero:              true,
		KeyUsage:                    x509.KeyUsageCertSign | x509.KeyUsageCRLSign,
	}
	der, err := x509.CreateCertificate(rand.Reader, template, template, a.key.Public(), a.key)
	if err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	if a.Cert, err = x509.ParseCertificate(der); err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	pkcs, err := x509.MarshalPKCS8PrivateKey(a.key)
	if err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	// The key first: a certificate without its key would be taken for an authority that lost it.
	if err := os.WriteFile(keyFile, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: pkcs}), 0o600); err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	if err := os.WriteFile(certFile, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o644); err != nil {
		return fmt.Errorf("trust: %w", err)
	}
	return nil
}

// permittedNames are the names the authority may speak for: this machine's, and what a shop's own network calls its
// machines.
func permittedNames(names []string) []string {
	out := append(slices.Clone(names), "local", "lan", "home.arpa", "internal")
	slices.Sort(out)
	return slices.Compact(out)
}

// permittedAddresses are loopback and those of private networks (RFC 1918, RFC 6598, RFC 4193, RFC 4291), and the
// network each of this machine's own addresses is in: some shops sit on others.
func permittedAddresses(own []net.IP) (out []*net.IPNet) {
	for _, ip := range own {
		if v4 := ip.To4(); v4 != nil {
			mask := net.CIDRMask(24, 32)
			out = append(out, &net.IPNet{IP: v4.Mask(mask), Mask: mask})
		} else if ip.To16() != nil {
			mask := net.CIDRMask(64, 128)
			out = append(out, &net.IPNet{IP: ip.Mask(mask), Mask: mask})
		}
	}
	for _, cidr := range []string{"127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "100.64.0.0/10", "169.254.0.0/16", "::1/128", "fc00::/7", "fe80::/10"} {
		if _, n, err := net.ParseCIDR(cidr); err == nil {
			out = append(out, n)
		}
	}
	return out
}

func serialNumber() (*big.Int, error) {
	n, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return nil, fmt.Errorf("trust: %w", err)
	}
	return n, nil
}

// Local lists the names and addresses this machine is reached by.
func Local() (names []string, ips []net.IP) {
	names = []string{"localhost"}
	if host, err := os.Hostname(); err == nil && host != "" {
		names = append(names, host)
		if !strings.Contains(host, ".") {
			names = append(names, host+".local")
		}
	}
	ips = []net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}
	addrs, err := net.InterfaceAddrs()
	if err != nil {
		return names, ips
	}
	for _, a := range addrs {
		if n, ok := a.(*net.IPNet); ok && !n.IP.IsLoopback() && !n.IP.IsLinkLocalUnicast() {
			ips = append(ips, n.IP)
		}
	}
	return names, ips
}

// Config serves with a certificate of the authority's, for whatever names and addresses this machine has by then.
func (a *Authority) Config() *tls.Config {
	return &tls.Config{
		MinVersion:     tls.VersionTLS12,
		NextProtos:     []string{"http/1.1"},
		GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) { return a.current() },
	}
}

// current is the server's certificate, made anew where it nears its end or the machine's addresses have changed.
func (a *Authority) current() (*tls.Certificate, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	names, ips := a.speaksFor(a.names())
	under := fmt.Sprint(names, ips)
	if a.server != nil && a.under == under && a.now().Before(a.until.AddDate(0, 0, -renewDays)) {
		return a.server, nil
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, fmt.Errorf("trust: %w", err)
	}
	serial, err := serialNumber()
	if err != nil {
		return nil, err
	}
	until := a.now().AddDate(0, 0, serverDays)
	template := &x509.Certificate{
		SerialNumber: serial,
		Subject:      pkix.Name{CommonName: names[len(names)-1]},
		NotBefore:    a.now().Add(-backdated),
		NotAfter:     until,
		KeyUsage:     x509.KeyUsageDigitalSignature,
		ExtKeyUsage:  []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		DNSNames:     names,
		IPAddresses:  ips,
	}
	der, err := x509.CreateCertificate(rand.Reader, template, a.Cert, key.Public(), crypto.Signer(a.key))
	if err != nil {
		return nil, fmt.Errorf("trust: %w", err)
	}
	a.server, a.until, a.under = &tls.Certificate{Certificate: [][]byte{der, a.Cert.Raw}, PrivateKey: key}, until, under
	return a.server, nil
}

// speaksFor leaves out what the authority may not speak for: one such name and a browser refuses the whole certificate.
// An authority from before it was held to a network speaks for all.
func (a *Authority) speaksFor(names []string, ips []net.IP) ([]string, []net.IP) {
	if len(a.Cert.PermittedDNSDomains) > 0 {
		names = slices.DeleteFunc(slices.Clone(names), func(n string) bool {
			return !slices.ContainsFunc(a.Cert.PermittedDNSDomains, func(p string) bool { return n == p || strings.HasSuffix(n, "."+p) })
		})
	}
	if len(a.Cert.PermittedIPRanges) > 0 {
		ips = slices.DeleteFunc(slices.Clone(ips), func(ip net.IP) bool {
			return !slices.ContainsFunc(a.Cert.PermittedIPRanges, func(p *net.IPNet) bool { return p.Contains(ip) })
		})
	}
	return names, ips
}

// Addresses are the URLs this machine is reached under from elsewhere, the likeliest first.
func (a *Authority) Addresses(port string) (out []string) {
	_, ips := a.speaksFor(a.names())
	slices.SortStableFunc(ips, func(x, y net.IP) int { return rank(x) - rank(y) })
	for _, ip := range ips {
		if !ip.IsLoopback() {
			out = append(out, "https://"+net.JoinHostPort(ip.String(), port))
		}
	}
	return out
}

// rank puts the addresses of private networks first, and version 4 before 6: shorter to type.
func rank(ip net.IP) int {
	switch {
	case ip.To4() != nil && ip.IsPrivate():
		return 0
	case ip.To4() != nil:
		return 1
	case ip.IsPrivate():
		return 2
	}
	return 3
}
