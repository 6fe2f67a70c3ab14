// Thrush tells what a project's tests ran.
package main

import (
	"os"

	"thrush/internal/cli"
)

func main() { os.Exit(cli.Main(os.Args[1:])) }
