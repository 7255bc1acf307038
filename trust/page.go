package trust

import (
	"bytes"
	"fmt"
	"html/template"
	"image"
	"net"
	"net/http"
	"strings"

	"github.com/boombuler/barcode/qr"
)

// CertPath is where the authority's certificate is fetched from, over plain HTTP: it is public, and what it is for.
const CertPath = "/shop-authority.crt"

// Page is the one page plain HTTP answers with: how to trust this shop on this device, and the way on. say gives
// words by key.
func (a *Authority) Page(port string, say func(key string) string) http.Handler {
	t := template.Must(template.New("trust").Parse(page))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Cache-Control", "no-store")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Content-Security-Policy",
			"default-src 'none'; style-src 'unsafe-inline'; img-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
		if r.Method != http.MethodGet && r.Method != http.MethodHead {
			http.Error(w, say("trust.https_only"), http.StatusUpgradeRequired)
			return
		}
		if r.URL.Path == CertPath {
			h.Set("Content-Type", "application/x-x509-ca-cert")
			h.Set("Content-Disposition", `attachment; filename="geminate-shop.crt"`)
			_, _ = w.Write(a.Cert.Raw)
			return
		}
		on := a.onward(r.Host, port)
		here := strings.Replace(on, "https://", "http://", 1) // the next device begins on this page as well
		code, err := SVG(here)
		if err != nil {
			code = ""
		}
		h.Set("Content-Type", "text/html; charset=utf-8")
		_ = t.Execute(
			w,
			map[string]any{
				"Say":   say,
				"On":    on,
				"Here":  here,
				"Cert":  CertPath,
				"QR":    template.HTML(code),
				"Print": a.Fingerprint(), //nolint:gosec // our own SVG
				"Kinds": []string{"android", "ios", "windows", "linux"},
				"Steps": []string{"1", "2", "3"},
			},
		)
	})
}

// onward is where to go: the name or address that was asked for, where it is one of this machine's.
func (a *Authority) onward(host, port string) string {
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	names, ips := a.names()
	for _, n := range names {
		if strings.EqualFold(n, name) {
			return "https://" + net.JoinHostPort(n, port) + "/"
		}
	}
	for _, ip := range ips {
		if ip.Equal(net.ParseIP(name)) {
			return "https://" + net.JoinHostPort(ip.String(), port) + "/"
		}
	}
	for _, at := range a.Addresses(port) {
		return at + "/"
	}
	return "https://" + net.JoinHostPort("localhost", port) + "/"
}

// Fingerprint is the authority's, as devices show it: to be compared by eye.
func (a *Authority) Fingerprint() string { return fingerprint(a.Cert.Raw) }

// Code draws a text as a QR code, one pixel a module, without its margin.
func Code(text string) (image.Image, error) { return modules(text) }

func modules(text string) (image.Image, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return nil, fmt.Errorf("trust: %w", err)
	}
	return code, nil
}

func dark(m image.Image, x, y int) bool {
	if !image.Pt(x, y).In(m.Bounds()) {
		return false
	}
	r, _, _, _ := m.At(x, y).RGBA()
	return r < 0x8000
}

// quiet is the margin a QR code needs, in modules.
const quiet = 3

// SVG draws a text as a QR code.
func SVG(text string) (string, error) {
	m, err := modules(text)
	if err != nil {
		return "", err
	}
	n := m.Bounds().Dx()
	var b bytes.Buffer
	fmt.Fprintf(
		&b,
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="%d %d %d %d" width="220" height="220" role="img" aria-label="QR"><path fill="#fff" d="M%d %dh%dv%dh-%dz"/><path d="`,
		-quiet,
		-quiet,
		n+2*quiet,
		n+2*quiet,
		-quiet,
		-quiet,
		n+2*quiet,
		n+2*quiet,
		n+2*quiet,
	)
	for y := range n {
		for x := range n {
			if dark(m, x, y) {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	b.WriteString(`"/></svg>`)
	return b.String(), nil
}

// Text draws a text as a QR code for a terminal, two rows of it in one of letters, light on dark as well as dark on
// light.
func Text(text string) (string, error) {
	m, err := modules(text)
	if err != nil {
		return "", err
	}
	n := m.Bounds().Dx()
	var b strings.Builder
	for y := -quiet; y < n+quiet; y += 2 {
		b.WriteString("\x1b[30;47m")
		for x := -quiet; x < n+quiet; x++ {
			switch up, low := dark(m, x, y), dark(m, x, y+1); {
			case up && low:
				b.WriteString("█")
			case up:
				b.WriteString("▀")
			case low:
				b.WriteString("▄")
			default:
				b.WriteString(" ")
			}
		}
		b.WriteString("\x1b[0m\n")
	}
	return b.String(), nil
}

const page = `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Geminate</title>
<style>body{font:18px/1.5 system-ui,sans-serif;margin:0;background:#eef1ec;color:#12313a}main{max-width:760px;margin:0 auto;padding:24px}
h1{margin:0 0 4px}h2{margin:18px 0 0;border-bottom:4px double #12313a}a.go{display:inline-block;background:#12313a;color:#fff;padding:14px 22px;margin:8px 8px 8px 0;text-decoration:none;font-weight:600}
a.go.second{background:#fff;color:#12313a;border:1px solid #12313a}details{background:#fafcf8;border:1px solid #9db1ad;padding:10px 14px;margin:8px 0}summary{font-weight:600;min-height:44px;display:flex;align-items:center;cursor:pointer}
code{overflow-wrap:anywhere;font-size:15px}</style></head><body><main>
<h1>{{call .Say "trust.title"}}</h1><p>{{call .Say "trust.why"}}</p>
<h2>1</h2><p><a class="go" href="{{.Cert}}">{{call .Say "trust.download"}}</a></p>
<h2>2</h2><p>{{call .Say "trust.install"}}</p>
{{range $k := .Kinds}}<details><summary>{{call $.Say (print "trust." $k)}}</summary><ol>{{range $.Steps}}<li>{{call $.Say (print "trust." $k "." .)}}</li>{{end}}</ol></details>{{end}}
<p>{{call .Say "trust.compare"}}<br><code>{{.Print}}</code></p>
<p>{{call .Say "trust.speaks_for"}}</p>
<h2>3</h2><p><a class="go second" href="{{.On}}">{{call .Say "trust.onward"}}</a></p>
<p>{{call .Say "trust.next_device"}}</p>{{.QR}}<p><code>{{.Here}}</code></p></main></body></html>`
