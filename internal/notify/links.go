package notify

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"regexp"
	"strings"

	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
)

// Links of mails let their recipient act without signing in, so a link that
// somebody else sees is that person's hand. Letters therefore hold links that
// are good for nothing, sealed in a form of their own; they are made good while
// a letter is handed over to its recipient, and nowhere else.

// LinkDays is how many days a link of a mail can be used.
const LinkDays = 30

// ActPath is where links of mails lead, followed by a token.
const ActPath = "/act/"

// NoLink stands in the place of a link's token where somebody other than its
// recipient looks at a letter.
const NoLink = "for-its-recipient-alone"

// linkKey signs deeds, in two forms that cannot be taken for each other.
type linkKey string

func (post *Post) linkKey(ctx context.Context) (linkKey, error) {
	key, err := post.store.OwnKey(ctx, "link key")
	return linkKey(key), err
}

// macBytes is how many bytes of a token are its signature.
const macBytes = 16

func (k linkKey) mac(form string, text []byte) []byte {
	mac := hmac.New(sha256.New, []byte(k))
	mac.Write([]byte(form))
	mac.Write(text)
	return mac.Sum(nil)[:macBytes]
}

// The forms: a deed's JSON begins with a brace, so none is the beginning of another.
const (
	good   = ""        // does what it says
	sealed = "sealed " // in a letter that has not been handed over
)

func (k linkKey) token(form string, deed Deed) string {
	text, _ := json.Marshal(deed) // plain fields always marshal
	return base64.RawURLEncoding.EncodeToString(append(text, k.mac(form, text)...))
}

// open reads a token; nil if it is none of ours in that form.
func (k linkKey) open(form, token string) *Deed {
	raw, err := base64.RawURLEncoding.Strict().DecodeString(token)
	if err != nil || len(raw) <= macBytes {
		return nil
	}
	text, mac := raw[:len(raw)-macBytes], raw[len(raw)-macBytes:]
	out := &Deed{}
	if !hmac.Equal(mac, k.mac(form, text)) || json.Unmarshal(text, out) != nil {
		return nil
	}
	return out
}

// Deed reads a link's token; ErrLink if it is not one of ours or has expired.
func (post *Post) Deed(ctx context.Context, token string) (*Deed, error) {
	key, err := post.linkKey(ctx)
	if err != nil {
		return nil, err
	}
	deed := key.open(good, token)
	if deed == nil || post.Now().Unix() > deed.Until {
		return nil, ErrLink
	}
	return deed, nil
}

var actToken = regexp.MustCompile(regexp.QuoteMeta(ActPath) + `[A-Za-z0-9_-]+`)

// handOver makes the links of a letter good that are the reader's, and leaves
// none that is anybody else's.
func (k linkKey) handOver(text, reader string) string {
	return actToken.ReplaceAllStringFunc(text, func(at string) string {
		token := at[len(ActPath):]
		deed := k.open(sealed, token)
		if deed == nil { // letters of earlier versions hold links that are good
			deed = k.open(good, token)
		}
		switch {
		case deed == nil:
			return at
		case strings.EqualFold(deed.Who, reader):
			return ActPath + k.token(good, *deed)
		}
		return ActPath + NoLink
	})
}

// Show gives texts of letters as a reader may see them: links work for their
// recipient alone.
func (post *Post) Show(ctx context.Context, reader string, texts ...*string) error {
	key, err := post.linkKey(ctx)
	if err != nil {
		return err
	}
	for _, t := range texts {
		*t = key.handOver(*t, reader)
	}
	return nil
}

// acting gives the links that the letters of a round carry, sealed.
func (post *Post) acting(ctx context.Context, t *sheet.Tracker) (act func(*reminder.Reminder, reminder.Item, string, string) string, pause func(string) string, err error) {
	if post.Console == "" {
		return nil, nil, nil
	}
	key, err := post.linkKey(ctx)
	if err != nil {
		return nil, nil, err
	}
	until := post.Now().AddDate(0, 0, LinkDays).Unix()
	act = func(r *reminder.Reminder, i reminder.Item, to, what string) string {
		return post.Console + ActPath + key.token(sealed, Deed{What: what, Tracker: t.ID, Reminder: r.ID, Row: i.Row, Who: to, Until: until})
	}
	pause = func(to string) string {
		return post.Console + ActPath + key.token(sealed, Deed{What: "pause", Who: to, Until: until})
	}
	return act, pause, nil
}
