package e2e

import (
	"encoding/json"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var stationIDs = []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"}

// unfoldAll opens everything that folds away.
func unfoldAll(p *page) {
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("details").forEach(d => (d.open = true))`))
	time.Sleep(200 * time.Millisecond)
}

// goPath moves within the page, without loading it anew.
func goPath(p *page, path string) {
	p.do(chromedp.Evaluate[chromedp.Void](`history.pushState({}, "", "` + path + `"); dispatchEvent(new PopStateEvent("popstate")); 0`))
	p.until("there", `document.querySelector("main h1, main .field")`)
	time.Sleep(300 * time.Millisecond)
}

// Every word a person reads stands in words/: the words are marked while the page runs, and what is then read without a
// mark is either of the job's own data (names, numbers, threads, ids) or was forgotten in the code.
func TestNoTextStandsOutsideTheWords(t *testing.T) {
	t.Parallel()
	a := startYears(t, "20")
	p := open(t, a.url, 1280, 800)
	p.click("demo-piet")
	p.see("job")
	mark := `(() => { const a = document.querySelector("#app").__vue_app__; const c = a._context.provides[a.__VUE_I18N_SYMBOL__].global; const en = c.getLocaleMessage("en"); if (!window.__marked) { window.__marked = true; c.setLocaleMessage("en", Object.fromEntries(Object.entries(en).map(([k, v]) => [k, "⟦" + v + "⟧"]))) } })()`
	p.do(chromedp.Evaluate[chromedp.Void](mark))
	// What is left of each text when the marked words are taken out, letters only.
	read := `JSON.stringify((() => { const out = []; const w = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT); while (w.nextNode()) { const n = w.currentNode; const e = n.parentElement; if (e.closest("script, style, .fig input, [lang]:not(html)")) continue; out.push(n.textContent) } document.querySelectorAll("[aria-label], [placeholder], [title], [alt]").forEach(e => ["aria-label", "placeholder", "title", "alt"].forEach(a => { if (e.hasAttribute(a) && !e.closest("[lang]:not(html)")) out.push(e.getAttribute(a)) })); let text = out.join("\u0001"); for (let i = 0; i < 4; i++) text = text.replace(/⟦[^⟦⟧]*⟧/g, " "); return [...new Set(text.split("\u0001").flatMap(s => s.match(/\p{L}{3,}/gu) ?? []))] })())`
	var forgotten []string
	known := strings.Builder{}
	know := func(path string) {
		text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`fetch("`+path+`").then(r => r.text())`, chromedp.EvalAwaitPromise))
		require.NoError(t, err)
		known.WriteString(strings.ToLower(text))
	}
	for _, x := range []string{"/api/vocabulary", "/api/jobs", "/api/vehicles", "/api/settings", "/api/accounts", "/api/audit", "/api/session", "/api/statistics", "/api/openapi.json", "/api/catalogue/units.csv"} {
		know(x)
	}
	known.WriteString(
		" geminate jan feb mar apr may jun jul aug sep oct nov dec utc csv json lbf psi mpa inhg mph english español españa europe berlin ",
	) // languages by their own names; an example of a zone
	look := func(name string) {
		unfoldAll(p)
		var words []string
		evalJSON(p, read, &words)
		for _, w := range words {
			if !strings.Contains(known.String(), strings.ToLower(w)) {
				forgotten = append(forgotten, name+": "+w)
			}
		}
	}
	look("bay")
	openJob(p, "Corrigan")
	id, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(t, err)
	for _, x := range []string{"", "/match", "/replace", "/bleed", "/bench"} {
		know("/api/jobs/" + id + x)
	}
	for _, s := range stationIDs {
		p.goTo(s)
		p.until("content", `document.querySelectorAll('.work .field').length > 0`)
		time.Sleep(300 * time.Millisecond)
		look(s)
	}
	for _, path := range []string{"/vehicles", "/figures", "/shop", "/shelf", "/audit", "/words"} {
		goPath(p, path)
		look(path)
	}
	assert.Empty(t, forgotten)
}

// In Spanish nothing of English is left: no text of the page is one of the English words it has Spanish for.
func TestSpanishThroughout(t *testing.T) {
	t.Parallel()
	table := map[string]map[string]string{}
	for _, l := range []string{"en", "es"} {
		raw, err := os.ReadFile("../words/" + l + ".json")
		require.NoError(t, err)
		var m map[string]string
		require.NoError(t, json.Unmarshal(raw, &m))
		table[l] = m
	}
	spanish := map[string]bool{}
	for _, v := range table["es"] {
		spanish[v] = true
	}
	a := startYears(t, "20")
	p := open(t, a.url, 1280, 800)
	p.click("demo-piet")
	p.see("job")
	p.click("language-es")
	p.until("Spanish", `document.documentElement.lang === "es" && document.body.innerText.includes("Abrir un trabajo")`)
	var left []string
	look := func(name string) {
		unfoldAll(p)
		var texts []string
		evalJSON(
			p,
			`JSON.stringify((() => { const out = []; const w = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT); while (w.nextNode()) if (!w.currentNode.parentElement.closest("[lang]:not(html)")) out.push(w.currentNode.textContent.trim()); return [...new Set(out)] })())`,
			&texts,
		)
		have := map[string]bool{}
		for _, x := range texts {
			have[x] = true
		}
		for _, x := range texts { // a wheel is called as people call it
			if regexp.MustCompile(`\b[LR][FR]\b`).MatchString(x) {
				left = append(left, name+": "+x)
			}
		}
		for k, v := range table["en"] {
			if have[v] && !spanish[v] {
				left = append(left, name+": "+k+" "+v)
			}
		}
	}
	look("bay")
	openJob(p, "Corrigan")
	for _, s := range stationIDs {
		p.goTo(s)
		p.until("content", `document.querySelectorAll('.work .field').length > 0`)
		time.Sleep(300 * time.Millisecond)
		look(s)
	}
	p.shotTop("spanish")
	for _, path := range []string{"/vehicles", "/figures", "/shop", "/shelf", "/audit", "/words"} {
		goPath(p, path)
		look(path)
	}
	assert.Empty(t, left)
	// It is this person's: another browser, the same account.
	q := open(t, a.url, 1280, 800)
	q.click("demo-piet")
	q.until("Spanish again", `document.body.innerText.includes("Abrir un trabajo")`)
}

// A new shop's first minute: a practice job, each station explained once, a word of the trade opened where it stands.
func TestTheFirstMinute(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	p.click("demo-mara")
	p.see("job")
	p.click("new-job")
	p.click("practise")
	p.click("exercise-finding_1")
	p.see("practice")
	p.see("practice-side")
	p.goTo("intake")
	p.has("explain", "Tell the complaint")
	p.click("explain-away")
	p.gone("explain")
	p.goTo("diagnose")
	p.see("explain")
	p.goTo("intake")
	p.gone("explain")
	p.goTo("match")
	p.until("a word of the trade", `!!document.querySelector('[data-testid="units-here"] .term')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="units-here"] .term').click(); 0`))
	p.until("its meaning and its drawing",
		`!!document.querySelector('.meaning svg .lit') && document.querySelector('.meaning').innerText.length > 20`)
	p.click("back-to-bay")
	p.see("to-words")
	p.click("to-words")
	p.until("all of them", `document.querySelectorAll('[data-testid="term"]').length >= 40`)
}

// Single keys can be switched off, the list is named where it can be tapped, and another job begins with the same
// vehicle.
func TestKeysCanBeSwitchedOff(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.click("keys")
	p.see("single-keys")
	p.click("single-keys")
	p.key("\x1b")
	p.gone("single-keys")
	p.until(
		"nothing lies over the page any more",
		`(() => { const e = document.querySelector('[data-testid="station-record"]'), r = e.getBoundingClientRect(); return e.contains(document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)) })()`,
	)
	p.key("n")
	time.Sleep(200 * time.Millisecond)
	p.until("still day", `!document.documentElement.classList.contains("night")`)
	p.goTo("record")
	p.click("another")
	p.until("another job of the same vehicle",
		`location.pathname.endsWith("/intake") && document.querySelector('[data-testid="plate"] input')?.value === "8TK 2204"`)
	p.until("nothing of what was wrong", `document.querySelector('[data-testid="complaint"] textarea').value === ""`)
}

// A job nobody goes on with leaves the bay with its reason, is found under its own filter, and is taken up again.
func TestAJobIsPutAway(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("record")
	p.click("put-away")
	p.fill("put-away-reason", "The owner sold it")
	p.click("put-away-now")
	p.has("away", "The owner sold it")
	p.stored()
	p.click("back-to-bay")
	p.until("out of the bay", `document.querySelectorAll('[data-testid=job]').length === 3`)
	p.click("over")
	p.click("standing-away")
	p.until("found there", `document.querySelectorAll('[data-testid=job]').length === 1`)
	openJob(p, "Corrigan")
	p.goTo("record")
	p.click("take-up")
	p.see("put-away")
	p.stored()
	p.click("back-to-bay")
	p.until("in the bay again", `document.querySelectorAll('[data-testid=job]').length === 4`)
}

// The drawing can be pointed at: a wheel at Intake opens its figures, at Diagnose its signs.
func TestTheDrawingIsPointedAt(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("intake")
	p.see("save-intake")
	p.click("point-LR")
	p.until(
		"its figures",
		`document.querySelector('[data-testid="system-form"]').open && document.querySelector('[data-testid="open-LR"]').ariaExpanded === "true"`,
	)
	p.goTo("diagnose")
	p.see("where-first")
	p.click("point-RF")
	p.until("at the wheels", `document.querySelector('[data-testid="where-wheels"]').ariaPressed === "true"`)
	p.click("point-cylinder")
	p.until("under the hood", `document.querySelector('[data-testid="where-hood"]').ariaPressed === "true"`)
}

// What has the focus is seen: neither the foot of a station nor anything else that stays in view lies over it, however
// it got there.
func TestFocusIsNeverCovered(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
		p := open(t, a.url, size[0], size[1])
		if size[0] == 1280 {
			openPickup(p)
		} else {
			signIn(p)
			openJob(p, "Corrigan")
		}
		for _, station := range []string{"intake", "diagnose", "match", "verify"} {
			p.goTo(station)
			p.until("content", `document.querySelectorAll('.work .field').length > 0`)
			p.atRest()
			var covered []string
			evalJSON(p, `JSON.stringify((() => { const bad = []; const dock = document.querySelector('.work .dock')
				for (const e of document.querySelectorAll('.work :is(button, input, a, summary)')) {
					if (!e.offsetParent || e.disabled || e.tabIndex < 0 || dock?.contains(e)) continue
					e.focus()
					if (document.activeElement !== e) continue
					const r = e.getBoundingClientRect(), foot = dock ? dock.getBoundingClientRect().top : innerHeight
					if (r.height < foot - 70 && (r.bottom > foot + 1 || r.top < -1)) bad.push((e.dataset.testid || e.innerText) + " " + Math.round(r.top) + "-" + Math.round(r.bottom) + " foot " + Math.round(foot))
				}
				return bad })())`, &covered)
			assert.Empty(t, covered, "%s at %d wide", station, size[0])
		}
	}
}
