// Package page has the pages of the yard in it.
package page

import (
	"embed"
	"net/http"
)

//go:embed pages
var pages embed.FS

// Handler answers with the pages.
func Handler() http.Handler { return http.FileServer(http.FS(pages)) }
