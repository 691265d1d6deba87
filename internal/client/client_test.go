package client

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// Every call of the client is one that the service's OpenAPI document knows,
// with parameters that it knows.
func TestEveryCallIsInTheDocument(t *testing.T) {
	text, err := os.ReadFile("../../docs/openapi.json")
	require.NoError(t, err)
	var doc struct {
		Paths map[string]map[string]struct {
			Parameters []struct{ Name, In string }
		}
	}
	require.NoError(t, json.Unmarshal(text, &doc))
	var problems []string
	check := func(r *http.Request) {
		for path, methods := range doc.Paths {
			pattern := "^" + regexp.MustCompile(`\\\{[a-z]+\\\}`).ReplaceAllString(regexp.QuoteMeta(path), "[^/]+") + "$"
			op, known := methods[strings.ToLower(r.Method)]
			if !known || !regexp.MustCompile(pattern).MatchString(r.URL.EscapedPath()) {
				continue
			}
			for name := range r.URL.Query() {
				found := false
				for _, p := range op.Parameters {
					found = found || p.In == "query" && p.Name == name
				}
				if !found {
					problems = append(problems, r.Method+" "+path+" has no parameter "+name)
				}
			}
			return
		}
		problems = append(problems, r.Method+" "+r.URL.EscapedPath()+" is not in the document")
	}
	calls := 0
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		calls++
		check(r)
		w.Header().Set("Content-Type", "application/json")
		_, _ = w.Write([]byte("null"))
	}))
	defer server.Close()
	c, err := New(server.URL, "t")
	require.NoError(t, err)
	v := reflect.ValueOf(c)
	for i := range v.NumMethod() {
		m := v.Method(i)
		args := []reflect.Value{reflect.ValueOf(t.Context())}
		for j := 1; j < m.Type().NumIn(); j++ {
			args = append(args, sample(m.Type().In(j)))
		}
		fromEnd := map[string]int{"Definitions": 0, "PutDefinition": 1, "RunDefinition": 2, "ReplaceDefinition": 2, "DropDefinition": 1, "DefinitionHistory": 1}
		if n, has := fromEnd[v.Type().Method(i).Name]; has { // the kind of definition
			args[len(args)-1-n] = reflect.ValueOf("rules")
		}
		m.Call(args)
	}
	assert.Empty(t, problems)
	assert.Equal(t, v.NumMethod(), calls)
}

// sample gives an argument with every field filled.
func sample(typ reflect.Type) reflect.Value {
	switch typ.Kind() {
	case reflect.String:
		return reflect.ValueOf("a/b c")
	case reflect.Bool:
		return reflect.ValueOf(true)
	case reflect.Int, reflect.Int64:
		return reflect.ValueOf(7).Convert(typ)
	case reflect.Struct:
		v := reflect.New(typ).Elem()
		for i := range v.NumField() {
			v.Field(i).Set(sample(v.Field(i).Type()))
		}
		return v
	case reflect.Interface:
		if typ == reflect.TypeFor[io.Writer]() {
			return reflect.ValueOf(io.Discard)
		}
		return reflect.ValueOf(strings.NewReader("x"))
	}
	return reflect.Zero(typ)
}

func TestProblemsAndAbsenceAreTold(t *testing.T) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodDelete {
			http.Error(w, "gateway asleep", http.StatusBadGateway)
			return
		}
		assert.Equal(t, "Bearer secret", r.Header.Get("Authorization"))
		w.WriteHeader(http.StatusConflict)
		_, _ = w.Write([]byte(`{"status":409,"title":"t","detail":"no","hint":"try so"}`))
	}))
	c, err := New(server.URL+"/", " secret\n")
	require.NoError(t, err)
	_, err = c.Trackers(t.Context())
	var p *wire.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "no (try so)", p.Error())
	_, err = c.DropTracker(t.Context(), How{}, "x")
	require.ErrorAs(t, err, &p)
	assert.Contains(t, p.Error(), "gateway asleep")
	server.Close()
	_, err = c.Trackers(t.Context())
	var away *Unreachable
	require.ErrorAs(t, err, &away)
	for _, bad := range []string{"", "localhost", "ftp://x", "http://"} {
		_, err := New(bad, "")
		require.Error(t, err, bad)
	}
}
