package workspace

import (
	"context"
	"errors"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/syncing"
)

// LookAtList fetches a list that is not saved and says what its records hold.
func (w *Workspace) LookAtList(ctx context.Context, t *sheet.Tracker, text []byte, replace sheet.DefinitionID) (*syncing.Sample, error) {
	def, err := w.Setup.ParseDefinition(sheet.KindList, text, t.Clone(), w.NewID, replace)
	if err != nil {
		return nil, err
	}
	decoded, err := w.Setup.Kinds().Decode(def)
	if err != nil {
		return nil, err
	}
	list, is := decoded.(*reconcile.List)
	if !is {
		return nil, errors.New("that is no list")
	}
	return w.LookAt(ctx, list.On(t.Location()))
}
