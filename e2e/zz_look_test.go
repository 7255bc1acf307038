package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// throwaway: not committed
func TestLook(t *testing.T) {
	var w, h int64 = 1280, 800
	if s := os.Getenv("LOOK"); s != "" {
		fmt.Sscanf(s, "%dx%d", &w, &h)
	}
	a := startYears(t, "20")
	p := open(t, a.url, w, h)
	p.click("demo-" + func() string { if s := os.Getenv("WHO"); s != "" { return s }; return "mara" }())
	p.until("the bay", `document.querySelectorAll('[data-testid=job]').length >= 4`)
	if l := os.Getenv("LANG_"); l != "" {
		p.do(chromedp.Evaluate[chromedp.Void](`localStorage.setItem("geminate.language", "`+l+`"); location.reload(); 0`))
		p.until("the bay", `document.querySelectorAll('[data-testid=job]').length >= 4`)
	}
	n := os.Getenv("JOB")
	if n == "" {
		n = "1"
	}
	tag := fmt.Sprintf("%d-", w)
	measure := func(name string) {
		p.shot(tag + name)
		out, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string](`JSON.stringify({h: document.documentElement.scrollHeight, w: document.documentElement.scrollWidth, main: [...document.querySelectorAll(".tap.main")].map(e => [e.textContent.trim().slice(0, 30), Math.round(e.getBoundingClientRect().bottom)])})`))
		fmt.Println("LOOK", name, out)
	}
	views := strings.Fields(os.Getenv("VIEWS"))
	if len(views) == 0 {
		views = []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"}
	}
	measure("bay")
	p.do(chromedp.Click(chromedp.CSS(`li:nth-child(` + n + `) [data-testid=job]`)))
	p.see("station-intake")
	for _, v := range views {
		if strings.HasPrefix(v, "/") {
			p.do(chromedp.Evaluate[chromedp.Void](`history.pushState({}, "", "` + v + `"); dispatchEvent(new PopStateEvent("popstate")); 0`))
			p.until("there", `!document.body.innerText.includes("One moment")`)
			measure(strings.ReplaceAll(v[1:], "/", "_"))
			continue
		}
		p.goTo(v)
		p.until("there", `!!document.querySelector("main section, main .field")`)
		measure(v)
	}
}
