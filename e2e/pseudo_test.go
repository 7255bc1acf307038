package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// longer puts a made-up language in the place of English: every text two fifths longer, with marks over and under its
// letters, as a translation may be. Names in braces stay.
const longer = `(() => { const a = document.querySelector("#app").__vue_app__; const c = a._context.provides[a.__VUE_I18N_SYMBOL__].global
	const marks = {a: "ä", e: "ê", i: "ï", o: "ő", u: "ų", n: "ñ", c: "ç", s: "š"}
	const say = (v) => { const long = v.replace(/\{\w+\}|[aeiouncs]/g, (x) => marks[x] ?? x); const words = v.replace(/\{\w+\}/g, "").split(" ").filter(Boolean); const more = Math.ceil(v.length * 0.4); let tail = ""; for (let i = 0; tail.length < more; i++) tail += " " + (words[i % Math.max(1, words.length)] ?? "ok"); return long + tail.slice(0, more + 1).replace(/[@|{}$]/g, "") }
	c.setLocaleMessage("en", Object.fromEntries(Object.entries(c.getLocaleMessage("en")).map(([k, v]) => [k, say(v)]))) })()`

// overflows are the page where it is wider than the screen, and controls whose text is cut off.
const overflows = `JSON.stringify((() => { const out = []
	if (document.documentElement.scrollWidth > innerWidth + 1) out.push("the page is " + document.documentElement.scrollWidth + " wide: " + [...document.querySelectorAll("main *, header *, nav *")].filter(e => e.getBoundingClientRect().right > innerWidth + 1 && !e.closest(".scroll, .by")).slice(0, 2).map(e => e.tagName + "." + e.className).join(", "))
	for (const e of document.querySelectorAll("button, a.tap, summary")) if (e.offsetParent && e.scrollWidth > e.clientWidth + 2 && !e.closest(".waits")) out.push("cut off: " + e.innerText.slice(0, 40))
	return out })())`

// A language with longer words fits every view at every size: nothing runs out of the page, no control loses its text.
func TestALanguageWithLongerWords(t *testing.T) {
	t.Parallel()
	a := startYears(t, "20")
	for _, size := range [][2]int64{{1280, 800}, {800, 1280}, {390, 844}} {
		p := open(t, a.url, size[0], size[1])
		p.click("demo-piet")
		p.see("job")
		p.do(chromedp.Evaluate[chromedp.Void](longer))
		look := func(view string) {
			time.Sleep(250 * time.Millisecond)
			var found []string
			evalJSON(p, overflows, &found)
			assert.Empty(t, found, fmt.Sprintf("%s at %d", view, size[0]))
		}
		look("bay")
		openJob(p, "Corrigan")
		for _, s := range stationIDs {
			p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="station-` + s + `"]').click()`))
			p.until("content", `location.pathname.endsWith("/`+s+`") && document.querySelectorAll('.work .field').length > 0`)
			look(s)
			p.shotTop(fmt.Sprintf("longer-%d-%s", size[0], s))
		}
		for _, path := range []string{"/vehicles", "/figures", "/shop", "/shelf", "/audit", "/words"} {
			goPath(p, path)
			look(path)
		}
	}
}
