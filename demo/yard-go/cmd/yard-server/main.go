// A server of the yard's pages.
package main

import (
	"fmt"
	"net/http"
	"os"

	"yard.example/brickyard/internal/page"
)

var version = "of today"

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: yard-server PORT")
		os.Exit(2)
	}
	fmt.Println("pages", version, "on port", os.Args[1])
	if err := http.ListenAndServe("localhost:"+os.Args[1], page.Handler()); err != nil {
		fmt.Fprintln(os.Stderr, "yard-server:", err)
		os.Exit(1)
	}
}
