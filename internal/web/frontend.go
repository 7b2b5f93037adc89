package web

import (
	"bytes"
	"errors"
	"io/fs"
	"net/http"
	"strings"
	"time"

	"gavrik/internal/store"
)

// Pieces is the folder of the front end's pieces, which are named by their content.
const Pieces = "assets"

// frontEnd serves the built files, and index.html for the addresses that the
// front end itself routes.
func (s *server) frontEnd(files fs.FS) http.HandlerFunc {
	static := http.FileServerFS(files)
	return func(w http.ResponseWriter, r *http.Request) {
		path := strings.TrimPrefix(r.URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			problem(w, http.StatusNotFound, "There is nothing at this address.")
			return
		}
		piece := strings.HasPrefix(path, Pieces+"/")
		if _, err := fs.Stat(files, path); path != "" && err == nil {
			if piece {
				w.Header().Set("Cache-Control", forGood)
			}
			static.ServeHTTP(w, r)
			return
		}
		if piece {
			s.otherPiece(w, r, path)
			return
		}
		index, err := fs.ReadFile(files, "index.html")
		if err != nil {
			http.Error(w, "The front end is not built. Run: make build", http.StatusServiceUnavailable)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Cache-Control", "no-cache")
		_, _ = w.Write(index) // the caller may have gone
	}
}

// forGood is for what never changes under its name.
const forGood = "public, max-age=31536000, immutable"

// otherPiece serves a piece of another version: of the page that somebody has open, or that a server of that
// version has given.
func (s *server) otherPiece(w http.ResponseWriter, r *http.Request, path string) {
	content, err := s.Store.Piece(r.Context(), path)
	switch {
	case errors.Is(err, store.ErrNotFound):
		http.NotFound(w, r)
		return
	case err != nil:
		s.Log.Error("a piece of another version", "id", requestNumber(r.Context()), "error", err)
		http.Error(w, "The database does not answer.", http.StatusServiceUnavailable)
		return
	}
	w.Header().Set("Cache-Control", forGood)
	http.ServeContent(w, r, path, time.Time{}, bytes.NewReader(content))
}
