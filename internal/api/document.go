package api

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

type pdfOut struct {
	Type   string `header:"Content-Type"`
	Name   string `header:"Content-Disposition"`
	Policy string `header:"Content-Security-Policy"`
	Body   []byte
}

// pdfPolicy lets a browser show a document in its own viewer, and nothing else.
const pdfPolicy = "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'"

// document hands out documents as they were printed.
func (s *Server) document(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "document", Method: http.MethodGet, Path: "/api/documents/{run}.pdf",
		Summary: "A document as it was printed", Middlewares: s.signedIn(a),
		Responses: map[string]*huma.Response{
			"200": {Description: "PDF", Content: map[string]*huma.MediaType{"application/pdf": {Schema: &huma.Schema{
				Type: "string", Format: "binary",
			}}}},
		},
	}, func(ctx context.Context, in *struct {
		Run int64 `path:"run" minimum:"1"`
	},
	) (*pdfOut, error) {
		pdf, err := s.Desk.Query.Document(ctx, in.Run)
		if err != nil {
			return nil, s.answer(ctx, err)
		}
		return &pdfOut{"application/pdf", fmt.Sprintf(`inline; filename="journeyman-%d.pdf"`, in.Run), pdfPolicy, pdf}, nil
	})
}
