package api

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"example.org/kavlo/internal/engine"
)

// hashKey is under which a request's context tells a hash of the request.
type hashKey struct{}

// withHash lets a request tell a hash of itself: of the operation and of all
// that came with it. It is worked out where it is asked for.
func withHash(ctx context.Context, operation string, in any) context.Context {
	return context.WithValue(ctx, hashKey{}, func() string {
		h := sha256.New()
		fmt.Fprintln(h, operation)
		if err := json.NewEncoder(h).Encode(in); err != nil { // inputs are read from JSON and texts
			panic("api: a request cannot be written: " + err.Error())
		}
		return hex.EncodeToString(h.Sum(nil))
	})
}

// keyOf gives the idempotency key of a request: the person's own, and good for
// this request alone.
func keyOf(ctx context.Context, w Write) engine.Key {
	if w.Key == "" || w.isPreview() {
		return engine.Key{}
	}
	hash, _ := ctx.Value(hashKey{}).(func() string)
	if hash == nil {
		hash = func() string { return "" }
	}
	return engine.Key{ID: fmt.Sprintf("person %d %s", who(ctx).ID, w.Key), Hash: hash()}
}
