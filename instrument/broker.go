package instrument

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"net"
	"sync"
	"time"

	mqtt "github.com/mochi-mqtt/server/v2"
	"github.com/mochi-mqtt/server/v2/listeners"
	"github.com/mochi-mqtt/server/v2/packets"

	"geminate/internal/listen"
)

// Listening is who answers for instruments at the broker.
type Listening interface {
	// Known gives what takes an instrument's packs, by its id and secret; false where there is none.
	Known(ctx context.Context, id, secret string) (take func(pack []byte), ok bool)
}

// The broker's bounds.
const (
	packetMost  = 32 << 10
	clientsMost = 500
	knownWithin = 3 * time.Second
	// ConnectionsMost are those an instruments' listener has at a time; one that has not signed in within ConnectWithin
	// is let go.
	ConnectionsMost = 2 * clientsMost
	ConnectWithin   = 5 * time.Second
)

// Broker speaks MQTT to instruments on a listener until ctx ends: an instrument signs in by its id and secret, may
// publish under its own topic, geminate/<id>, and nothing else; nobody may subscribe.
func Broker(ctx context.Context, l net.Listener, who Listening, log *slog.Logger) error {
	caps := mqtt.NewDefaultServerCapabilities()
	caps.MaximumPacketSize, caps.MaximumClients = packetMost, clientsMost
	caps.RetainAvailable, caps.SharedSubAvailable, caps.WildcardSubAvailable = 0, 0, 0
	caps.MaximumSessionExpiryInterval, caps.MaximumMessageExpiryInterval = 0, 60
	s := mqtt.New(&mqtt.Options{Capabilities: caps, Logger: slog.New(slog.DiscardHandler)})
	if err := s.AddHook(&gate{who: who, ctx: ctx, log: log, in: map[*mqtt.Client]*signedIn{}}, nil); err != nil {
		return fmt.Errorf("instruments: %w", err)
	}
	if err := s.AddListener(listeners.NewNet("instruments", l)); err != nil {
		return fmt.Errorf("instruments: %w", err)
	}
	if err := s.Serve(); err != nil {
		return fmt.Errorf("instruments: %w", err)
	}
	<-ctx.Done()
	return s.Close()
}

// gate lets instruments in and hands on what they publish.
type gate struct {
	mqtt.HookBase
	who Listening
	ctx context.Context
	log *slog.Logger
	mu  sync.Mutex
	in  map[*mqtt.Client]*signedIn
}

type signedIn struct {
	topic string
	take  func([]byte)
}

// ID implements mqtt.Hook.
func (g *gate) ID() string { return "geminate" }

// Provides implements mqtt.Hook.
func (g *gate) Provides(b byte) bool {
	return bytes.Contains([]byte{mqtt.OnConnectAuthenticate, mqtt.OnACLCheck, mqtt.OnPublish, mqtt.OnDisconnect}, []byte{b})
}

// OnConnectAuthenticate implements mqtt.Hook.
func (g *gate) OnConnectAuthenticate(cl *mqtt.Client, pk packets.Packet) bool {
	ctx, cancel := context.WithTimeout(g.ctx, knownWithin)
	defer cancel()
	id := string(pk.Connect.Username)
	// A client of another's name would throw that one off: it is called as the instrument is, or not at all.
	name := pk.Connect.ClientIdentifier
	take, ok := g.who.Known(ctx, id, string(pk.Connect.Password))
	if !ok || name != "" && name != id {
		g.log.Warn("instrument refused", "instrument", clipText(id), "address", cl.Net.Remote)
		return false
	}
	listen.Settle(cl.Net.Conn)
	g.mu.Lock()
	defer g.mu.Unlock()
	g.in[cl] = &signedIn{"geminate/" + id, take}
	return true
}

// OnACLCheck implements mqtt.Hook: its own topic to write, nothing to read.
func (g *gate) OnACLCheck(cl *mqtt.Client, topic string, write bool) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	in := g.in[cl]
	return write && in != nil && topic == in.topic
}

// OnPublish implements mqtt.Hook: what is published is taken and goes no further.
func (g *gate) OnPublish(cl *mqtt.Client, pk packets.Packet) (packets.Packet, error) {
	g.mu.Lock()
	in := g.in[cl]
	g.mu.Unlock()
	if in == nil || pk.TopicName != in.topic {
		return pk, packets.ErrNotAuthorized
	}
	in.take(pk.Payload)
	return pk, nil
}

// OnDisconnect implements mqtt.Hook.
func (g *gate) OnDisconnect(cl *mqtt.Client, _ error, _ bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.in, cl)
}
