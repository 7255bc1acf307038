package server

import (
	"encoding/json"
	"net/http"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/job"
	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/ground/practice"
	"geminate/store"
)

// call is one request being answered.
type call struct {
	fiber.Ctx
	user *store.User // nil on routes open to all
}

// jobID is the {id} of the path, copied: Fiber reuses the memory after the request.
func (c *call) jobID() string { return string(append([]byte(nil), c.Params("id")...)) }

// route is one line of the API: what it is called, what goes in and out, and who answers. The
// description is made from the same table the server routes by.
type route struct {
	method, path, id, summary string
	open                      bool        // without signing in
	command                   job.Command // what it takes to ask; the core's table says who may
	in, out                   any
	told, query               any
	binary                    string // content type, where the answer is not JSON
	most                      int    // bytes a body may have; 0 takes routeMost
	handler                   fiber.Handler
}

// none is the body of a route without one.
type none struct{}

func handle[In, Out any](s *server, r route, fn func(*call, In) (Out, error)) route {
	var in In
	var out Out
	r.in, r.out = in, out
	r.handler = func(c fiber.Ctx) error {
		cl := &call{Ctx: c}
		if !r.open {
			v, err := s.signedIn(c)
			if err != nil {
				return err
			}
			cl.user = v.user
			if forged(c, v.token) {
				return fiber.NewError(http.StatusForbidden, "problem.csrf")
			}
			if !v.user.Role.May(r.command) && !(strings.HasPrefix(r.path, "/jobs/{id}") && s.learns(c, r.command, v.user)) {
				return job.ErrRole{Command: r.command}
			}
		}
		leave, err := s.spend(cl, r.id)
		if err != nil {
			return err
		}
		defer leave()
		if len(c.BodyRaw()) > r.limit() {
			return fiber.NewError(http.StatusRequestEntityTooLarge, "problem.too_large")
		}
		var body In
		if _, empty := any(body).(none); !empty {
			if p, ok := any(body).(prechecked); ok {
				if err := p.precheck(c.BodyRaw()); err != nil {
					return err
				}
			}
			if err := strict.Decode(c.BodyRaw(), &body); err != nil {
				return err
			}
		}
		answer, err := fn(cl, body)
		if err != nil {
			return err
		}
		if file, ok := any(answer).(file); ok {
			kind := r.binary
			if strings.HasSuffix(file.name, ".json") { // one route gives tables in either way
				kind = fiber.MIMEApplicationJSONCharsetUTF8
			}
			c.Set(fiber.HeaderContentType, kind)
			c.Set(fiber.HeaderContentDisposition, `attachment; filename="`+file.name+`"`)
			return c.Send(file.data)
		}
		if raw, ok := any(answer).(json.RawMessage); ok {
			c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSONCharsetUTF8)
			return c.Send(raw)
		}
		return c.JSON(answer)
	}
	return r
}

// prechecked bodies are looked at before they are decoded, to tell more than the first thing wrong.
type prechecked interface {
	precheck(body []byte) error
}

// file is an answer that is not JSON.
type file struct {
	name string
	data []byte
}

func get(path, id, summary string) route {
	return route{method: http.MethodGet, path: path, id: id, summary: summary, command: job.ReadJobs}
}

func post(path, id, summary string) route {
	return route{method: http.MethodPost, path: path, id: id, summary: summary}
}

func put(path, id, summary string) route {
	return route{method: http.MethodPut, path: path, id: id, summary: summary}
}

// needs says what it takes to ask.
func (r route) needs(c job.Command) route { r.command = c; return r }

// answers says what a route answers where that is sent just as it was kept; asks which query parameters it reads.
func (r route) answers(out any) route { r.told = out; return r }

func (r route) asks(query any) route { r.query = query; return r }

func (r route) openToAll() route { r.open = true; return r }

func (r route) upTo(bytes int) route { r.most = bytes; return r }

// limit is the most bytes a body of this route may have.
func (r route) limit() int { return max(r.most, routeMost) }

func (r route) as(contentType string) route { r.binary = contentType; return r }

// Route is one line of the API as tests and documents need it.
type Route struct {
	Method, Path, ID string
	Open             bool
	Command          job.Command
}

// Routes lists the API.
func Routes() []Route {
	var out []Route
	for _, r := range (&server{}).routes() {
		out = append(out, Route{r.method, r.path, r.id, r.open, r.command})
	}
	return out
}

// The query parameters of lists.
type bayAsked struct {
	Text     string       `query:"text"`
	Standing job.Standing `query:"standing"`
	Station  string       `query:"station"`
	After    string       `query:"after"`
}

type logAsked struct {
	Since int64 `query:"since"`
}

type auditAsked struct {
	Before int64  `query:"before"`
	Job    string `query:"job"`
	Action string `query:"action"`
}

func queryInt(c *call, name string) int {
	n, err := strconv.Atoi(c.Query(name))
	if err != nil {
		return 0
	}
	return n
}

// routes is the API.
func (s *server) routes() []route {
	return append(append(s.questions(), s.pocket()...), []route{
		handle(s, get("/openapi.json", "description", "This description").openToAll(), s.description),
		handle(s, get("/session", "session", "Who is signed in").openToAll(), s.getSession),
		handle(s, post("/session", "signIn", "Sign in").openToAll(), s.signIn),
		handle(s, (route{method: http.MethodDelete, path: "/session", id: "signOut", summary: "Sign out"}).needs(job.SetOwn), s.signOut),
		handle(s, put("/me", "setPreferences", "Set units and theme").needs(job.SetOwn), s.setPreferences),
		handle(s, post("/first", "first", "Make the lead's account of an empty shop").openToAll(), s.first),
		handle(s, post("/welcome/{pass}", "welcome", "Set a password by a one-time link").openToAll(), s.welcome),
		handle(s, put("/me/password", "ownPassword", "Change one's own password").needs(job.SetOwn), s.ownPassword),
		handle(s, get("/settings", "settings", "The shop's settings"), s.settings),
		handle(s, put("/settings", "setSettings", "Change them").upTo(256<<10).needs(job.ManageSettings), s.setSettings),
		handle(s, get("/accounts", "accounts", "The shop's accounts").needs(job.ManageAccounts), s.accounts),
		handle(s, post("/accounts", "addAccount", "Add an account; its link sets the password").needs(job.ManageAccounts), s.addAccount),
		handle(s, put("/accounts/{id}", "setAccount", "Change role, training, or close it").needs(job.ManageAccounts), s.setAccount),
		handle(s, post("/accounts/{id}/link", "accountLink", "A one-time link to set a new password").needs(job.ManageAccounts),
			s.accountLink),
		handle(s,
			post("/accounts/{id}/sign-out", "signOutEverywhere", "End every session of an account").needs(job.ManageAccounts),
			s.signOutEverywhere),
		handle(s, get("/vehicles", "vehicles", "Find vehicles by plate, VIN or name").asks(textAsked{}), s.vehicles),
		handle(s, get("/vehicles/{id}", "vehicle", "A vehicle with its jobs, water and system"), s.vehicle),
		handle(s, post("/vehicles/{id}/join", "joinVehicle", "Make this entry another's").needs(job.ChangeSystem), s.joinVehicle),
		handle(s, post("/vehicles/{id}/part", "partVehicle", "Take a joined entry apart again").needs(job.ChangeSystem), s.partVehicle),
		handle(s, get("/vehicles/{id}/due.ics", "vehicleCalendar", "When its fluid is due, for a calendar").as("text/calendar"),
			s.vehicleCalendar),
		handle(
			s,
			post("/vehicles/{id}/ask", "askChain",
				"Ask the chain's other shops what they did to this vehicle, with its owner's consent").needs(job.AskChain),
			s.askChain,
		),
		handle(s, get("/chain", "chain", "The figures of every shop of the chain").asks(statisticsAsked{}).needs(job.ReadChain),
			s.chainFigures),
		handle(s, get("/due", "due", "What is due, the first first").asks(dueAsked{}), s.due),
		handle(
			s,
			get("/due.ics", "shopCalendar", "The shop's calendar, by a read token in the address").as("text/calendar").
				asks(outAsked{}).
				openToAll(),
			s.shopCalendar,
		),
		handle(s, get("/bottles", "bottles", "Bottles of fluid this shop has open"), s.bottles),
		handle(s, get("/statistics", "statistics", "What closed jobs come to").asks(statisticsAsked{}), s.statistics),
		handle(s, get("/statistics/jobs", "figureJobs", "The jobs a figure rests on").asks(figureAsked{}), s.figureJobs),
		handle(s, get("/experience", "experience", "What this shop has found, and how it moves the priors"), s.experience),
		handle(s,
			put("/experience", "bringExperience", "Bring in another shop's, or take it out").upTo(256<<10).needs(job.ManageSettings),
			s.bringExperience),
		handle(
			s,
			get("/out/{pass}", "out",
				"jobs, vehicles or statistics as .csv or .json, signed in or by a read token").as("text/csv").
				openToAll(),
			s.out,
		),
		handle(s, get("/tokens", "tokens", "Read tokens of the shop's own scripts").needs(job.ManageAccounts), s.tokens),
		handle(s, post("/tokens", "addToken", "Make one; its secret is told once").needs(job.ManageAccounts), s.addToken),
		handle(s,
			(route{method: http.MethodDelete, path: "/tokens/{id}", id: "revokeToken", summary: "End one"}).needs(job.ManageAccounts),
			s.revokeToken),
		handle(
			s,
			post("/jobs/{id}/forget", "forget", "Take the customer's name and words out of a job").needs(job.ManageSettings).
				answers(job.View{}),
			s.forget,
		),
		handle(s, get("/addresses", "addresses", "Where another device opens this shop, the one to show first"), s.addresses),
		handle(s, post("/trouble", "trouble", "Tell the shop's log of an error in the page").needs(job.SetOwn), s.trouble),
		handle(s, get("/vocabulary", "vocabulary", "What can be entered").needs(job.LookUp), s.vocabulary),
		handle(s,
			post("/systems/check", "checkSystem", "Hold a system against the reader and the twin").upTo(system.MaxBytes).needs(job.LookUp),
			s.checkSystem),
		handle(s, get("/jobs", "bay", "A page of the jobs, the last touched first").asks(bayAsked{}), s.bay),
		handle(s, post("/jobs", "newJob", "Open a job").needs(job.OpenJob), s.newJob),
		handle(
			s,
			post("/jobs/import", "importJob",
				"Bring a job in from a job file of any format; it is history from elsewhere").upTo(job.MaxBytes).
				needs(job.BringJobIn),
			s.importJob,
		),
		handle(s, get("/jobs/{id}", "job", "One job").answers(job.View{}), s.job),
		handle(s, get("/jobs/{id}/log", "log", "The job's log, in order").asks(logAsked{}), s.log),
		handle(s,
			put("/jobs/{id}/intake", "saveIntake", "Replace the intake").upTo(system.MaxBytes).needs(job.EditIntake).answers(job.View{}),
			s.saveIntake),
		handle(s,
			put("/jobs/{id}/choices", "saveChoices", "Replace the choices").upTo(system.MaxBytes).needs(job.SetUp).answers(job.View{}),
			s.saveChoices),
		handle(
			s,
			post("/jobs/{id}/events", "append", "Append readings, ticks and strokes; a retry counts once").upTo(eventsMost).
				needs(job.WriteNote).
				answers(job.View{}),
			s.append,
		),
		handle(
			s,
			post("/jobs/{id}/log", "appendLog", "The same, answered by the events as they were stored").upTo(eventsMost).
				needs(job.WriteNote),
			s.appendLog,
		),
		handle(s,
			post("/jobs/{id}/release", "release", "Release the vehicle if the gate passes").needs(job.ReleaseJob).answers(job.View{}),
			s.release),
		handle(s,
			post("/jobs/{id}/reopen", "reopen", "Take a release back, with the reason").needs(job.ReopenJob).answers(job.View{}),
			s.reopen),
		handle(s, get("/instruments", "instruments", "The shop's instruments, with what each told last").needs(job.ReadJobs),
			s.instruments),
		handle(s, post("/instruments", "addInstrument", "Add one; its secret is told once").needs(job.ManageSettings), s.addInstrument),
		handle(
			s,
			(route{method: http.MethodDelete, path: "/instruments/{id}", id: "dropInstrument", summary: "Take one away"}).needs(
				job.ManageSettings,
			),
			s.dropInstrument,
		),
		handle(s,
			post("/instruments/{id}/attach", "attachInstrument", "Give it to a job: it belongs to one at a time").needs(job.TakeReading),
			s.attachInstrument),
		handle(
			s,
			post("/instruments/{id}/lines", "instrumentLines",
				"Lines of an instrument on a cable: a figure and its unit each").upTo(packMost).
				needs(job.TakeReading),
			s.instrumentLines,
		),
		handle(s,
			post("/readings", "readings", "A SenML pack (RFC 8428) from an instrument, by its secret").upTo(packMost).openToAll(),
			s.readings),
		handle(
			s,
			post("/jobs/{id}/trace", "cutTrace",
				"What this job's instruments drew in the last seconds, and what it comes to").needs(job.TakeReading),
			s.cutTrace,
		),
		handle(s, get("/practice", "practices", "The exercises, those set, and one's own").needs(job.Practise), s.practices),
		handle(s,
			post("/practice", "beginPractice", "Begin an exercise: opens a practice job with its vehicle").needs(job.Practise),
			s.beginPractice),
		handle(s, get("/practice/results", "practiceResults", "Who worked what, and how it went").needs(job.SetExercises),
			s.practiceResults),
		handle(s, get("/practice/results.csv", "practiceTable", "The same as a table").as("text/csv").needs(job.SetExercises),
			s.practiceTable),
		handle(
			s,
			get("/practice/{id}/certificate.pdf", "certificate",
				"That an exercise was worked, and what it came to").as("application/pdf").
				needs(job.Practise),
			s.certificate,
		),
		handle(s, post("/practice/sets", "setExercise", "Set an exercise, to everybody or to some").needs(job.SetExercises), s.setExercise),
		handle(s,
			post("/practice/sets/{id}/link", "guestLink", "A link by which guests come to work it").needs(job.SetExercises),
			s.guestLink),
		handle(s, post("/guests/{pass}", "guest", "Come as a guest, by such a link").openToAll(), s.guest),
		handle(
			s,
			(route{method: http.MethodDelete, path: "/practice/sets/{id}", id: "dropSet", summary: "Take one back"}).needs(
				job.SetExercises,
			),
			s.dropSet,
		),
		handle(s,
			get("/practice/{id}", "practice", "A practice vehicle as it stands, and what can be done to it").needs(job.Practise),
			s.practice),
		handle(s, post("/practice/{id}/acts", "practiceAct", "Do one thing to it").needs(job.Practise), s.practiceAct),
		handle(
			s,
			post("/practice/{id}/brought", "bringPractice",
				"Bring what was done to it where the server could not be reached").upTo(1<<20).
				needs(job.Practise),
			s.bringPractice,
		),
		handle(s,
			post("/practice/{id}/instruments", "standIns", "Stand-in instruments on its pedal, for a while").needs(job.Practise),
			s.standIns),
		handle(
			s,
			post("/practice/{id}/end", "endPractice",
				"End it: what it came to, beside the engine's own way").answers(practice.Result{}).
				needs(job.Practise),
			s.endPractice,
		),
		handle(s, get("/audit", "audit", "Who did what, the newest first").asks(auditAsked{}).needs(job.ReadAudit), s.auditLines),
		handle(s, post("/catalogue/search", "search", "Search units by what was measured").needs(job.LookUp), s.search),
		handle(s, post("/catalogue/shelf", "setShelf", "Take a unit onto the shelf, or off it").needs(job.SetShelf), s.setShelf),
		handle(
			s,
			post("/catalogue/import", "importUnits", "Bring units in from a CSV or JSON file, all or none").upTo(bodyLimit).
				needs(job.ImportCatalogue),
			s.importUnits,
		),
		handle(s, get("/catalogue/imports/{id}", "importState", "How far an import is").needs(job.ImportCatalogue), s.importState),
		handle(s, get("/catalogue/units.csv", "exportUnits", "All units as a table").as("text/csv").needs(job.ReadJobs), s.exportCSV),
		handle(s, post("/counter", "counter", "Ask the parts counter for stock and price").needs(job.ReadJobs), s.counter),
		handle(s, post("/bore", "bore", "Read a bore stamp; name a measured thread").needs(job.LookUp), s.readBore),
		handle(s,
			get("/jobs/{id}/shelf", "jobShelf", "The units that come into question: the shelf, and the nearest of the catalogue"),
			s.jobShelf),
		handle(s, get("/jobs/{id}/met", "met", "What was at the joint of such vehicles before"), s.met),
		handle(s,
			post("/jobs/{id}/pattern", "keepPattern", "Keep this vehicle's brakes as a pattern of the shop's own").needs(job.ChangeSystem),
			s.keepPattern),
		handle(
			s,
			(route{method: http.MethodDelete, path: "/own-patterns/{id}", id: "dropPattern", summary: "Give one of them up"}).needs(
				job.ManageSettings,
			),
			s.dropPattern,
		),
		handle(s, get("/jobs/{id}/dress", "dress", "The shop's settings and experience this job is looked at with"), s.dress),
		handle(s,
			post("/jobs/{id}/pass", "pass", "A pass for a helper's phone: the calls of this job alone").needs(job.CountStroke),
			s.pass),
		handle(s, get("/jobs/{id}/call", "jobCall", "Where the two of a bleed stand"), s.jobCall),
		handle(s, post("/jobs/{id}/call", "jobSay", "Call, at the bleeder").needs(job.CountStroke), s.jobSay),
		handle(s, get("/calls/{pass}", "helperCall", "What is called, for a helper's phone").openToAll(), s.helperCall),
		handle(s, post("/calls/{pass}", "helperSay", "Answer, in the seat").openToAll(), s.helperSay),
		handle(s, get("/jobs/{id}/sheet.pdf", "sheet", "The job sheet").as("application/pdf"), s.sheet),
		handle(s, get("/jobs/{id}/customer.pdf", "customer", "What the owner takes home").as("application/pdf"), s.customer),
		handle(s,
			post("/jobs/{id}/paper", "paperPass", "A pass for the customer's phone: this one paper, for a time").needs(job.WriteNote),
			s.paperPass),
		handle(s, get("/papers/{pass}", "paper", "The customer's paper, by its pass").as("application/pdf").openToAll(), s.paper),
		handle(s, get("/jobs/{id}/photos/{photo}", "photo", "A photo's picture").as("image/jpeg"), s.photo),
		handle(s,
			get("/jobs/{id}/proof.pdf", "proof", "A release as proof: each item of the gate with its reading").as("application/pdf"),
			s.proof),
		handle(s, get("/jobs/{id}/tag.pdf", "tag", "The tag of a parked vehicle, for its wheel").as("application/pdf"), s.tag),
		handle(s,
			get("/target.pdf", "target", "What is laid beside a thing that is measured on a photo, to print").as("application/pdf"),
			s.target),
		handle(s, get("/jobs/{id}/labels.pdf", "labels", "Labels: the vehicle's next due, the bottle").as("application/pdf"), s.labels),
		handle(s,
			get("/jobs/{id}/warranty.pdf", "warranty", "What came off and what went on, for a warranty").as("application/pdf"),
			s.warranty),
		handle(s, get("/jobs/{id}/export", "export", "The job as a geminate.job/2 file").as("application/json"), s.export),
	}...)
}
