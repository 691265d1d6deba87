package policy

import "context"

type askerKey struct{}

// With gives a context for what is asked on somebody's behalf.
func With(ctx context.Context, p Principal) context.Context {
	return context.WithValue(ctx, askerKey{}, p)
}

// Asker gives on whose behalf something is asked; false where nobody said.
func Asker(ctx context.Context) (Principal, bool) {
	p, is := ctx.Value(askerKey{}).(Principal)
	return p, is
}
