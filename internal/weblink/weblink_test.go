package weblink

import (
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheNextPage(t *testing.T) {
	from, err := url.Parse("https://a.example.org/list?page=1")
	require.NoError(t, err)
	for field, want := range map[string]string{
		`</list?page=2>; rel="next"`:                                            "https://a.example.org/list?page=2",
		`<https://a.example.org/l?ids=1,2,3;x>; rel=next`:                       "https://a.example.org/l?ids=1,2,3;x",
		`</first>; rel="first", </n>;title="a, b; rel=\"next\"" ; rel = "next"`: "https://a.example.org/n",
		`</p>; rel="prev", </n>; REL="last Next"`:                               "https://a.example.org/n",
		`?page=2; rel=next`:                                                     "!",
		`</n>; rel="prev"; rel="next"`:                                          "",
		`</n>; rel="next"; anchor="/other"`:                                     "",
		`,, </n>;rel=next ,`:                                                    "https://a.example.org/n",
		`<https://b.example.org/n>; rel=next`:                                   "!",
		`<http://a.example.org/n>; rel=next`:                                    "!",
		`</n; rel=next`:                                                         "!",
		`</n>; rel="next`:                                                       "!",
		`</n>`:                                                                  "",
		``:                                                                      "",
	} {
		got, err := Next(http.Header{"Link": {field}}, from)
		if want == "!" {
			assert.Error(t, err, field)
			continue
		}
		require.NoError(t, err, field)
		if want == "" {
			assert.Nil(t, got, field)
		} else if assert.NotNil(t, got, field) {
			assert.Equal(t, want, got.String())
		}
	}
	got, err := Next(http.Header{"Link": {`</a>; rel="prev"`, `</b>; rel="next"`}}, from)
	require.NoError(t, err)
	assert.Equal(t, "/b", got.Path, "in a field of its own")
}

func FuzzParse(f *testing.F) {
	f.Add(`</a>; rel="next", <b>;x;y="\"", <c>`)
	f.Fuzz(func(t *testing.T, field string) {
		links, err := Parse(field)
		if err == nil && len(links) > len(field) {
			t.Fatal("more links than letters")
		}
	})
}
