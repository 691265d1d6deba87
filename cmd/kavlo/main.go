// Command kavlo is the service, its command-line client and its demo.
package main

import (
	"os"

	"example.org/kavlo/internal/cli"
)

func main() { os.Exit(cli.Main(os.Args[1:], os.Stdout, os.Stderr)) }
