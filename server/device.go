package server

import (
	"log/slog"
	"strings"
	"unicode/utf8"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/system"
	"geminate/trust"
)

// Address is one way to open this shop from another device.
type Address struct {
	URL string `json:"url"`
	// Code is the same as a QR code, an SVG drawing.
	Code string `json:"code"`
}

// Addresses is where another device opens this shop.
type Addresses struct {
	Addresses []Address `json:"addresses"`
	// Fingerprint is of the shop's own authority, "" where it has none.
	Fingerprint string `json:"fingerprint"`
}

func (s *server) addresses(c *call, _ none) (Addresses, error) {
	out := Addresses{Addresses: []Address{}, Fingerprint: s.Fingerprint}
	for _, url := range s.Addresses {
		at, err := addressOf(url)
		if err != nil {
			return out, err
		}
		out.Addresses = append(out.Addresses, at)
	}
	return out, nil
}

func addressOf(url string) (Address, error) {
	code, err := trust.SVG(url)
	return Address{url, code}, err
}

// TroubleIn is an error in the page, as the browser has it.
type TroubleIn struct {
	Message string `json:"message"`
	Stack   string `json:"stack"`
	Page    string `json:"page"`
	Version string `json:"version"`
}

// TroubleOut says under which mark it stands in the log, to be read out over the telephone.
type TroubleOut struct {
	Mark string `json:"mark"`
}

func (s *server) trouble(c *call, in TroubleIn) (TroubleOut, error) {
	const most = 6000 // characters of one field
	if strings.TrimSpace(in.Message) == "" {
		return TroubleOut{}, system.Faults{{Path: "$.message", Code: "fault.missing"}}
	}
	for path, v := range map[string]string{"$.message": in.Message, "$.stack": in.Stack, "$.page": in.Page, "$.version": in.Version} {
		if utf8.RuneCountInString(v) > most {
			return TroubleOut{}, system.Faults{{Path: path, Code: "fault.too_long", With: map[string]any{"max": most}}}
		}
	}
	mark := now().UTC().Format("0102-150405")
	s.Log.Warn("error in the page", slog.String("mark", mark), slog.String("user", c.user.ID),
		slog.String("message", in.Message), slog.String("page", in.Page), slog.String("version", in.Version),
		slog.String("browser", string(c.Request().Header.UserAgent())), slog.String("stack", in.Stack))
	return TroubleOut{mark}, nil
}

// clockHeader carries the shop's time in ms since 1970, so that a clock started on one screen reads the same on
// another whose own clock is wrong.
const clockHeader = "Geminate-Now"

func tellTime(c fiber.Ctx) error {
	err := c.Next()
	c.Set(clockHeader, now().Format("2006-01-02T15:04:05.000Z07:00"))
	return err
}
