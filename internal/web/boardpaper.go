package web

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/board"
	"gavrik/internal/core/page"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

// BoardTaking is a board that goes on paper.
type BoardTaking struct {
	Board   board.Board           `json:"board"`
	Saved   string                `json:"saved,omitempty" maxLength:"40" doc:"Key of the board as it is saved, which may be shared for its totals"`
	Name    string                `json:"name,omitempty" maxLength:"200" doc:"What stands above it, and what the file is called"`
	Answers map[string]view.Given `json:"answers,omitempty" doc:"To the board's questions"`
	Paper   *view.Paper           `json:"paper,omitempty" doc:"The sheet; A4 on its side, if left out"`
}

type (
	boardPagesInput  struct{ Body BoardTaking }
	boardPagesOutput struct {
		Body struct {
			Pages []page.Page `json:"pages"`
		}
	}
	boardPaperInput struct{ Body BoardTaking }
)

func (s *library) registerBoardPaper(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "board-pages", Method: http.MethodPost, Path: "/api/boards/pages",
		Summary: "A board's pages as they would print", MaxBodyBytes: maxBody, Errors: []int{422},
	},
		func(ctx context.Context, in *boardPagesInput) (*boardPagesOutput, error) {
			b, err := s.boardOnPaper(ctx, in.Body)
			if err != nil {
				return nil, err
			}
			out := &boardPagesOutput{}
			if out.Body.Pages, err = export.BoardPages(b); err != nil {
				return nil, s.failed(ctx, "board", err)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "board-paper", Method: http.MethodPost, Path: "/api/boards/paper",
		Summary: "Begin to make a PDF of a board", MaxBodyBytes: maxBody, DefaultStatus: http.StatusCreated,
		Errors: []int{422, 429},
	}, s.boardPaper)
}

func (s *library) boardPaper(ctx context.Context, in *boardPaperInput) (*exportOutput, error) {
	b, err := s.boardOnPaper(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	return s.beginExport(ctx, store.Export{
		Name: export.FileName(b.Title) + ".pdf", Media: "application/pdf",
		About: []string{fmt.Sprintf("board “%s” as pdf: %s", b.Title, b.Brief)},
	}, func(ctx context.Context, to io.Writer, _ func(int)) error { return export.WriteBoard(ctx, to, b) })
}

// boardOnPaper answers a board for paper.
func (s *library) boardOnPaper(ctx context.Context, in BoardTaking) (export.Board, error) {
	var none export.Board
	if err := in.Board.Check(); err != nil {
		return none, s.refusedAt(ctx, "body.board", err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return none, err
	}
	of, err := s.savedBoard(ctx, in.Saved)
	if err != nil {
		return none, err
	}
	found, err := s.FindBoard(ctx, g.Scope, who(ctx), &in.Board, of)
	if err != nil {
		return none, s.failed(ctx, "board", err)
	}
	answered, err := s.AnswerBoard(ctx, found, in.Answers)
	if err != nil {
		return none, s.refused(ctx, err)
	}
	b, err := answered.Paper(ctx, g.Scope, cmp.Or(in.Name, "Board"))
	if err != nil {
		return none, s.refused(ctx, err)
	}
	l, err := s.Store.Letterhead(ctx)
	if err != nil {
		return none, s.failed(ctx, "letterhead", err)
	}
	b.Heads, b.By, b.At, b.Board.Paper = (*export.Letterhead)(&l), who(ctx).Name, s.Workspace.Now(), in.Paper
	b.Author, b.Made = b.By, g.Moment(b.At)
	return b, nil
}
