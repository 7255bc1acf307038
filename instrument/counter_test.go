package instrument

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func serve(t *testing.T, h http.Handler) string {
	t.Helper()
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return s.URL
}

func TestCounterAnswersTheSameTwice(t *testing.T) {
	url := serve(t, &Counter{Known: map[string]Offer{"K 1": {Number: "K 1", Stock: 2, Price: 99}}})
	a, err := Ask(context.Background(), url, "V123-456 & co")
	require.NoError(t, err)
	b, err := Ask(context.Background(), url, "V123-456 & co")
	require.NoError(t, err)
	assert.Equal(t, a, b)
	assert.Equal(t, "V123-456 & co", a.Number)
	k, err := Ask(context.Background(), url, "K 1")
	require.NoError(t, err)
	assert.Equal(t, Offer{Number: "K 1", Stock: 2, Price: 99}, *k)
}

// A counter that is down, slow, wrong or answers for another part gives no answer, and never a made-up price.
func TestCounterThatFails(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 300*time.Millisecond)
	defer cancel()
	for name, url := range map[string]string{
		"always busy": serve(t, &Counter{FailRate: 1}),
		"nobody":      "http://127.0.0.1:1",
		"nonsense":    serve(t, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("<html>")) })),
		"other part":  serve(t, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"number":"x","price":1}`)) })),
		"negative":    serve(t, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"number":"n","price":-1}`)) })),
	} {
		_, err := Ask(ctx, url, "n")
		assert.ErrorIs(t, err, ErrCounter, name)
	}
	start := time.Now()
	_, err := Ask(ctx, serve(t, &Counter{Delay: time.Minute}), "n")
	assert.ErrorIs(t, err, ErrCounter)
	assert.Less(t, time.Since(start), 5*time.Second, "a slow one is not waited for")
}

// One failure is tried again.
func TestCounterIsAskedTwice(t *testing.T) {
	n := 0
	url := serve(t, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		if n++; n == 1 {
			w.WriteHeader(http.StatusServiceUnavailable)
			return
		}
		_, _ = w.Write([]byte(`{"number":"n","stock":1,"price":50,"core":10}`))
	}))
	o, err := Ask(context.Background(), url, "n")
	require.NoError(t, err)
	assert.Equal(t, 1, o.Stock)
}

func TestListenStopsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	addr, err := Listen(ctx, "127.0.0.1:0", &Counter{})
	require.NoError(t, err)
	_, err = Ask(context.Background(), "http://"+addr.String(), "n")
	require.NoError(t, err)
	cancel()
	assert.Eventually(t, func() bool { _, err := Ask(context.Background(), "http://"+addr.String(), "n"); return err != nil },
		5*time.Second, 20*time.Millisecond)
}
