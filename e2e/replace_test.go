package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tickNow ticks the step in hand where a tap is all it takes.
func tickNow(p *page) {
	p.t.Helper()
	now, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('.now').dataset.testid.slice(5)`))
	require.NoError(p.t, err)
	tap := "tick-" + now
	if now == "strip.look_in_booster" {
		tap = "tick-look-dry"
	}
	if now == "prepare.compare_on_bench" {
		seeSame(p)
	}
	p.click(tap)
	p.until(now+" ticked", `document.querySelector('.now')?.dataset.testid !== "step-`+now+`"`)
}

// seeSame tells of every point nobody measured that it is the same, one by one.
func seeSame(p *page) {
	p.t.Helper()
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelectorAll('[data-testid^="same-"][aria-pressed="false"]').forEach((b) => b.click())`,
		),
	)
}

// TestTheJoint works a booster with the cylinder aside the way it goes wrong: parts in their order, a step of one's
// own, one that is not here, one taken back with what rests on it, a torque off by 8.85, and at the end parked.
func TestTheJoint(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("match")
	p.click("scope-change")
	p.click("scope-booster_aside")
	p.stored()
	p.do(chromedp.Evaluate[chromedp.Void](`(async () => {
		const id = location.pathname.split("/")[2], csrf = /geminate_csrf=([^;]+)/.exec(document.cookie)[1]
		const v = await (await fetch("/api/jobs/" + id)).json()
		v.choices.booster = { id: "b", kind: "vacuum_booster", maker: "Vark", number: "VB 2", bore_mm: null, studs: 2, stud_spacing_mm: 85, pocket_mm: null, face_seal: "o_ring", sensor: "", variant: "", residual_mpa: null, reservoir: "", ports: [], contents: [], booster: {} }
		const r = await fetch("/api/jobs/" + id + "/choices", { method: "PUT", headers: { "content-type": "application/json", "X-Csrf-Token": csrf }, body: JSON.stringify({ version: v.choices_version, choices: v.choices }) })
		if (!r.ok) throw new Error(await r.text())
	})()`, chromedp.EvalAwaitPromise), chromedp.Reload())
	p.goTo("replace")
	p.has("no-bleeding", "nothing")
	p.click("here-air_box")
	p.click("here-stacked_bracket")
	p.click("here-confirm")
	p.until("the plan follows", `document.querySelector('[data-testid="steps-done"]').innerText.includes("of 2")`)
	p.key(" ") // meant to scroll: of a step nobody chose it ticks nothing
	p.see("step-prepare.chock")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="tick-prepare.chock"]').focus()`))
	p.key(" ") // on the step's own button it ticks
	p.see("step-prepare.cover_paint")
	// A photo is drawn anew and made small before it is kept.
	p.do(chromedp.Evaluate[chromedp.Void](`(async () => {
		const c = Object.assign(document.createElement("canvas"), { width: 3000, height: 2000 })
		const g = c.getContext("2d")
		for (let i = 0; i < 4000; i++) { g.fillStyle = "hsl(" + i * 7 % 360 + " 80% 50%)"; g.fillRect(i * 37 % 3000, i * 91 % 2000, 90, 70) }
		const blob = await new Promise((r) => c.toBlob(r, "image/png"))
		const files = new DataTransfer()
		files.items.add(new File([blob], "lines.png", { type: "image/png" }))
		const input = document.querySelector('[data-testid="photo-file"]')
		input.files = files.files
		input.dispatchEvent(new Event("change"))
	})()`, chromedp.EvalAwaitPromise))
	p.until("the photo shown", `document.querySelectorAll('[data-testid="photos"] img').length === 1`)
	p.stored()
	p.until("from the server", `document.querySelector('[data-testid="photos"] img').src.includes("/photos/")`)
	kib, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[float64](
			`fetch(document.querySelector('[data-testid="photos"] img').src).then(r => r.blob()).then(b => b.type === "image/jpeg" ? b.size / 1024 : -1)`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(t, err)
	assert.Greater(t, kib, 5.0)
	assert.LessOrEqual(t, kib, 300.0)
	tickNow(p) // cover
	// A step of one's own, and one that is not here with why.
	p.see("step-prepare.unpack")
	p.stored()
	p.click("own")
	p.see("say")
	p.fill("say", "Seat slid back")
	p.click("say-it")
	tickNow(p) // unpack
	p.until("my own step", `document.querySelector('.now h2').innerText === "Seat slid back"`)
	p.stored()
	p.click("not-here")
	p.see("say")
	p.fill("say", "bench seat, stays")
	p.click("say-it")
	p.see("step-prepare.compare_on_bench")
	for range 3 { // compared, engine off, vacuum out
		tickNow(p)
	}
	p.see("step-strip.air_box")
	// The order of the small parts.
	p.click("small-parts")
	p.click("off-hairpin")
	p.click("off-washer")
	p.click("off-bushing")
	p.until("three parts drawn", `document.querySelectorAll('[data-testid="small-parts"] svg g').length === 3`)
	for range 7 {
		tickNow(p) // air box, bracket, cylinder aside, hose, pedal's end, firewall … until the rod
		if there, _ := chromedp.Run(
			p.ctx,
			chromedp.Evaluate[bool](
				`!!document.querySelector('[data-testid="step-rod.measure"], [data-testid="step-rod.coupler_moved"]')`,
			),
		); there {
			break
		}
	}
	// Taken back, it takes with it what rests on it.
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="done-steps"]').open = true`))
	p.click("back-strip.cylinder_aside")
	p.see("take-back-one")
	p.click("take-back")
	p.see("step-strip.cylinder_aside")
	p.shot("replace-strip")
	for range 8 {
		if there, _ := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!document.querySelector('[data-testid="step-rod.measure"]')`)); there {
			break
		}
		tickNow(p)
	}
	p.fill("rod-pocket", "12.4")
	p.fill("rod-gasket", "0")
	p.fill("rod-protrusion", "14.4")
	p.has("rod-result", "−2.0 mm")
	p.click("rod-tick")
	p.stored()
	p.see("step-rod.measure") // two millimetres of preload: measured, and not done
	p.fill("rod-protrusion", "12.2")
	p.has("rod-result", "0.20 mm")
	p.click("rod-tick")
	p.see("step-fit.firewall_nuts")
	p.fill("torque-fit.firewall_nuts", "250")
	p.has("torque-verdict", "inch-pounds read as newton-meters")
	p.until("no way past it", `document.querySelector('[data-testid="torque-tick-fit.firewall_nuts"]').disabled`)
	p.fill("torque-fit.firewall_nuts", "28")
	p.until("the torque judged", `!document.querySelector('[data-testid="torque-tick-fit.firewall_nuts"]').disabled`)
	p.click("torque-tick-fit.firewall_nuts")
	// The pedal's end is not done while parts are off: the last that came off goes on first.
	p.see("step-fit.pedal_end")
	p.click("tick-fit.pedal_end")
	p.has("refused", "small parts are still off")
	p.click("refused-close")
	p.gone("refused")
	for _, part := range []string{"bushing", "washer", "hairpin"} {
		p.has("part-on", part)
		p.click("part-on")
	}
	p.gone("part-on")
	tickNow(p)
	p.see("step-fit.check_valve_hose")
	// Not finished today.
	p.click("park")
	p.see("park-it")
	p.until("the question stands still", `!document.querySelector(".fade-in-scale-up-transition-enter-active")`)
	p.click("park-part")
	p.until("the reason taken", `document.querySelector('[data-testid="park-part"]').ariaPressed === "true"`)
	p.fill("park-note", "check valve on order")
	p.click("park-it")
	p.has("parked", "A part is missing")
	p.stored()
	tag, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](`fetch(document.querySelector('[data-testid="tag"]').href).then(r => r.text()).then(s => s.slice(0, 5))`,
			chromedp.EvalAwaitPromise),
	)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-", tag)
	p.until("the question gone", `!document.querySelector(".n-modal-mask")`)
	p.click("back-to-bay")
	p.until("parked stands first", `document.querySelector('li:first-child [data-testid="not-driven"]')`)
	p.shot("parked")
}

// TestALineGoesToItsCircuit fits a unit whose circuits lie the other way round: the map shouts it.
func TestALineGoesToItsCircuit(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.do(chromedp.Evaluate[chromedp.Void](`(async () => {
		const id = location.pathname.split("/")[2], csrf = /geminate_csrf=([^;]+)/.exec(document.cookie)[1]
		const v = await (await fetch("/api/jobs/" + id)).json()
		const port = (position, circuit, thread) => ({ position, side: "left", thread, seat: "inverted_flare", circuit })
		const unit = { id: "u", maker: "Vark", number: "VK 7", bore_mm: 27, studs: 2, stud_spacing_mm: 80, pocket_mm: 12.4, face_seal: "o_ring", sensor: "two_pin", variant: "plain", residual_mpa: 0, reservoir: "included", contents: [] }
		v.choices.old_unit = { ...unit, ports: [port("front", "B", "3/8-24"), port("rear", "A", "7/16-24")] }
		v.choices.unit = { ...unit, ports: [port("front", "A", "7/16-24"), port("rear", "B", "M10x1")] }
		await fetch("/api/jobs/" + id + "/choices", { method: "PUT", headers: { "content-type": "application/json", "X-Csrf-Token": csrf }, body: JSON.stringify({ version: v.choices_version, choices: v.choices }) })
	})()`, chromedp.EvalAwaitPromise))
	p.goTo("replace")
	p.has("line-map", "follow the circuit")
	p.has("line-map", "another thread")
	p.has("line-map", "measure the run")
	p.shot("line-map")
}

// TestReleaseWithoutAGauge releases a repair elsewhere with a rule and a foot, and counts the taps from the last step
// to released.
func TestReleaseWithoutAGauge(t *testing.T) {
	t.Parallel()
	a := startPaced(t, 120) // a hold of half a minute is told sooner here than a second after the work it proves
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.click("pedal.sinks-slow")
	p.goTo("match")
	p.click("scope-change")
	p.click("scope-elsewhere")
	p.goTo("replace")
	p.until("a short plan", `document.querySelector('[data-testid="steps-done"]').innerText.includes("of 4")`)
	for range 4 {
		tickNow(p)
	}
	p.see("plan-done")
	p.stored()
	p.goTo("verify")
	taps := 0
	tap := func(id string) { p.click(id); taps++ }
	tap("no-gauge-yes")
	p.see("by-hand")
	for n, v := range map[string]string{"1": "110", "2": "111", "4": "112"} {
		p.fill("pump-"+n, v)
	}
	tap("pump-store")
	p.fill("firm", "38")
	tap("firm-store")
	p.has("item-pedal.firm_travel", "no force gauge here")
	p.has("item-pedal.pump", "no higher")
	p.shotTop("verify-by-hand")
	tap("check.free_play-yes")
	tap("next-check")
	p.gone("hold-force")
	p.fill("hold-start", "120")
	p.fill("hold-end", "119.5")
	p.fill("hold-seconds", "30")
	p.until("engine on is proposed where there is assist", `document.querySelector('[data-testid="hold-store"]:not([disabled])')`)
	tap("hold-store")
	p.has("item-pedal.sink", "at a firm foot")
	tap("assist.pedal_falls_on_start-yes")
	tap("reserve-3")
	tap("next-check")
	for _, c := range []string{"wheels_free", "dry_joints", "hoses_firm", "wheels_torqued"} {
		tap("check." + c + "-yes")
	}
	tap("next-check")
	for _, c := range []string{"brake_lamps", "lamps_out", "walking_stops"} {
		tap("check." + c + "-yes")
	}
	tap("after-drive")
	tap("looker-Piet Lindqvarn")
	p.has("gate", "May be released")
	tap("release")
	p.has("gate", "Released")
	assert.LessOrEqual(t, taps, 25)
	t.Logf("%d taps from the last step to released", taps)
}
