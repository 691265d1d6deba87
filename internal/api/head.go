package api

import (
	"context"
	"net/http"
)

// headAsGet answers HEAD as GET is answered, without a body (RFC 9110, 9.3.2), on every
// route that takes GET.
func headAsGet(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodHead {
			h.ServeHTTP(w, r)
			return
		}
		ctx, over := context.WithCancel(r.Context())
		defer over()
		get := r.WithContext(ctx)
		get.Method = http.MethodGet
		h.ServeHTTP(&bodiless{w, over}, get)
	})
}

// bodiless passes on the head of an answer alone. An answer that is sent bit by bit, as
// events are, is over with its first flush.
type bodiless struct {
	http.ResponseWriter
	over func()
}

func (b *bodiless) Write(p []byte) (int, error) { return len(p), nil }

func (b *bodiless) Flush() {
	if f, ok := b.ResponseWriter.(http.Flusher); ok {
		f.Flush()
	}
	b.over()
}
