// Command table runs every benchmark and writes its figures into the README,
// between the marks that stand there for them.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"

	"example.org/kavlo/bench"
)

const (
	from  = "<!-- bench -->\n"
	until = "<!-- /bench -->"
)

func main() {
	readme := flag.String("readme", "README.md", "the file to write into; empty: only print")
	only := flag.String("only", "", "run those whose name holds this, and only print")
	flag.Parse()
	if *only != "" {
		*readme = ""
	}
	if err := run(*readme, *only); err != nil {
		log.Fatal(err)
	}
}

func run(readme, only string) error {
	var table bytes.Buffer
	fmt.Fprintln(&table, "| what | took | floor | took | ratio | promised |\n| --- | ---: | --- | ---: | ---: | ---: |")
	for _, c := range bench.All() {
		if !strings.Contains(c.Name, only) {
			continue
		}
		dir, err := os.MkdirTemp("", "kavlo-bench")
		if err != nil {
			return err
		}
		f, err := bench.Measure(c, filepath.Clean(dir))
		if removeErr := os.RemoveAll(dir); err == nil {
			err = removeErr
		}
		if err != nil {
			return err
		}
		fmt.Println(f)
		fmt.Fprintf(&table, "| %s | %s | %s | %s | %.2fx | %gx |\n", f.Name, f.Kavlo, f.Floor, f.Bare, f.Ratio, f.Limit)
	}
	if readme == "" {
		return nil
	}
	text, err := os.ReadFile(readme)
	if err != nil {
		return err
	}
	before, rest, ok := bytes.Cut(text, []byte(from))
	_, after, ok2 := bytes.Cut(rest, []byte(until))
	if !ok || !ok2 {
		return fmt.Errorf("%s has no place for the table: %s and %s", readme, from, until)
	}
	out := fmt.Sprintf("%s%s%s%s%s", before, from, table.Bytes(), until, after)
	return os.WriteFile(readme, []byte(out), 0o644)
}
