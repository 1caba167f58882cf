package api

import (
	"context"
	"errors"
	"io"
	"iter"
	"mime/multipart"
	"net/http"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"journeyman/examples"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/importing"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

const (
	// mostImport is the most that may be handed over at once: more than a million order lines.
	mostImport = 256 << 20
	// mostUploads is how many imports are read at the same time by one server.
	mostUploads = 2
	// uploadWithin is how long the next piece of an upload may be waited for.
	uploadWithin = 30 * time.Second
)

func (s *Server) importRoutes(a huma.API) {
	// The files come through a door of their own (upload): they are read as they come. Here it is only described.
	op := huma.Operation{
		OperationID: "check-import", Method: http.MethodPost, Path: "/api/imports", Summary: "See row by row what CSV and XLSX files would do",
		Parameters: []*huma.Param{{
			Name: "Idempotency-Key", In: "header", Required: true, Schema: &huma.Schema{Type: "string", Format: "uuid"},
			Description: "Names this import; use it again to follow its progress and to apply it",
		}},
		RequestBody: &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"multipart/form-data": {Schema: &huma.Schema{
			Type: "object", Properties: map[string]*huma.Schema{
				"files": {Type: "array", Items: &huma.Schema{Type: "string", Format: "binary"}},
			},
		}}}},
		Responses: map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{"application/json": {
			Schema: a.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[importing.ImportReport](), true, "ImportReport"),
		}}}},
	}
	a.OpenAPI().AddOperation(&op)
	post(s, a, command.VerbImport, "apply-import", "/api/imports/apply", "Do what a checked import would do, all of it or nothing",
		func(ctx context.Context, call command.Call, ask struct {
			Import string `json:"import" format:"uuid" doc:"Key of the checked import"`
			Anew   bool   `json:"anew,omitempty" doc:"Give back what the count breaks and allocate it anew, as the report said"`
		},
		) (command.Outcome, error) {
			return s.Desk.Importing.ApplyImport(ctx, call, ask.Import, ask.Anew)
		})
	post(s, a, command.VerbImport, "keep-import-shape", "/api/imports/shapes", "Say how files with such columns are read",
		func(ctx context.Context, call command.Call, ask importing.ShapeAsk) (command.Outcome, error) {
			return s.Desk.Importing.KeepShape(ctx, call, ask)
		})
	get(s, a, "import-columns", "/api/imports/columns", "The kinds of files that can be imported, with their columns",
		func(context.Context, command.Actor, *struct{}) ([]exchange.KindHelp, error) {
			return exchange.Help, nil
		})
	get(s, a, "samples", "/api/imports/samples", "Sample files, to begin with",
		func(context.Context, command.Actor, *struct{}) ([]SampleFile, error) { return sampleFiles() })
	get(s, a, "progress", "/api/progress/{key}", "How far a long command is; all zero if it does not run", func(ctx context.Context,
		_ command.Actor, in *struct {
			Key string `path:"key" format:"uuid"`
		},
	) (store.Progress, error) {
		p, _, err := s.Desk.Query.ProgressOf(ctx, in.Key)
		return p, err
	})
}

// SampleFile is a file to begin with.
type SampleFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

func sampleFiles() ([]SampleFile, error) {
	var out []SampleFile
	for _, name := range []string{"items.csv", "stock.csv", "customers.csv", "inbound.csv", "orders.csv"} {
		text, err := examples.Files.ReadFile(name)
		if err != nil {
			return nil, err
		}
		out = append(out, SampleFile{name, string(text)})
	}
	return out, nil
}

// upload reads the files of an import as they come, keeping nothing of them in memory, and answers what applying them would do. Who
// may not import is turned away before the first byte is read.
func (s *Server) upload(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	who, err := s.actor(ctx)
	if err == nil && !who.Role.May(command.VerbImport) {
		err = s.answer(
			ctx, command.Forbidden("You are signed in as %s; to import is for coordinator or manager. Ask one of them.", who.Role),
		)
	}
	if err != nil {
		refuse(w, err)
		return
	}
	key, err := uuid.Parse(r.Header.Get("Idempotency-Key"))
	if err != nil {
		problem(w, http.StatusUnprocessableEntity, "The Idempotency-Key is not a UUID.")
		return
	}
	select {
	case s.uploads <- struct{}{}:
		defer func() { <-s.uploads }()
	default:
		w.Header().Set("Retry-After", "10")
		problem(w, http.StatusTooManyRequests, "Other imports are being read just now. Try again in a moment.")
		return
	}
	rc := http.NewResponseController(w)
	_ = rc.SetWriteDeadline(time.Now().Add(longWithin + time.Minute))
	body := &http.Request{Method: r.Method, Header: r.Header, Body: http.MaxBytesReader(w, &patient{r.Body, rc}, mostImport)}
	parts, err := body.MultipartReader()
	if err != nil {
		problem(w, http.StatusUnprocessableEntity, "Hand the files over as the parts of a form (multipart/form-data).")
		return
	}
	ctx, cancel := context.WithTimeout(ctx, longWithin)
	defer cancel()
	var broken error
	report, err := s.Desk.Importing.CheckFiles(ctx, command.Call{Key: key.String(), Actor: who}, filesOf(parts, &broken))
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || errors.As(broken, &large):
		problem(w, http.StatusRequestEntityTooLarge, "The files are larger than %d MB together. Split them.", mostImport>>20)
	case broken != nil:
		problem(w, http.StatusBadRequest, "The files did not come whole. Choose them again.")
	case err != nil:
		refuse(w, s.answer(ctx, err))
	default:
		w.Header().Set("Content-Type", "application/json")
		_ = huma.DefaultJSONFormat.Marshal(w, report)
	}
}

// patient waits for each piece of a body as long as for the first one.
type patient struct {
	io.ReadCloser
	rc *http.ResponseController
}

func (p *patient) Read(b []byte) (int, error) {
	_ = p.rc.SetReadDeadline(time.Now().Add(uploadWithin))
	return p.ReadCloser.Read(b)
}

// filesOf are the files of a form, one after another; broken is set if it does not come whole.
func filesOf(parts *multipart.Reader, broken *error) iter.Seq[exchange.File] {
	return func(yield func(exchange.File) bool) {
		for {
			part, err := parts.NextPart()
			if errors.Is(err, io.EOF) {
				return
			}
			if err != nil {
				*broken = err
				return
			}
			if part.FileName() == "" {
				continue
			}
			if !yield(exchange.File{Name: plainHeader(part.FileName(), 120), Text: part}) {
				return
			}
		}
	}
}
