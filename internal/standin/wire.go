package standin

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"journeyman/core/days"
	"journeyman/internal/desk/dock"
)

// What goes over the wire between the carrier and whoever has shipments for it, as JSON.
type (
	bookingAsk struct {
		Key      string    `json:"key"` // the same key is booked once
		Service  string    `json:"service"`
		Packages int       `json:"packages"`
		WeightG  int64     `json:"weight_g"`
		Postcode string    `json:"postcode"`
		Country  string    `json:"country"`
		At       time.Time `json:"at"` // in the zone of the dock
		Day      string    `json:"day"`
	}
	bookingAnswer struct {
		Carrier  string `json:"carrier"`
		Tracking string `json:"tracking"`
		Expected string `json:"expected"`
	}
	parcelAsk struct {
		Tracking     string    `json:"tracking"`
		DispatchedAt time.Time `json:"dispatched_at"`
	}
	eventAnswer struct {
		Tracking string    `json:"tracking"`
		Kind     string    `json:"kind"`
		At       time.Time `json:"at"`
		Note     string    `json:"note,omitempty"`
	}
	refusalAnswer struct {
		Sentence string `json:"sentence"`
	}
)

// Client reaches a carrier over HTTP at a URL such as http://127.0.0.1:8090.
type Client struct {
	URL  string
	HTTP *http.Client // http.DefaultClient if nil; how long it waits is for the caller's context to say
}

// Book has the carrier take a shipment.
func (c Client) Book(ctx context.Context, s dock.Consignment) (dock.Booking, error) {
	var b bookingAnswer
	err := c.post(ctx, "/bookings", bookingAsk{
		Key: s.Shipment, Service: s.Service, Packages: s.Packages, WeightG: s.WeightG, Postcode: s.Postcode, Country: s.Country, At: s.At,
		Day: days.Of(s.At).String(),
	}, &b)
	if err != nil {
		return dock.Booking{}, err
	}
	day, err := days.Parse(b.Expected)
	return dock.Booking{Carrier: b.Carrier, Tracking: b.Tracking, Expected: day}, err
}

// News asks what has happened to parcels.
func (c Client) News(ctx context.Context, parcels []dock.Parcel) ([]dock.Event, error) {
	ask := make([]parcelAsk, len(parcels))
	for i, p := range parcels {
		ask[i] = parcelAsk(p)
	}
	var events []eventAnswer
	if err := c.post(ctx, "/news", ask, &events); err != nil {
		return nil, err
	}
	out := make([]dock.Event, len(events))
	for i, e := range events {
		out[i] = dock.Event(e)
	}
	return out, nil
}

func (c Client) post(ctx context.Context, path string, ask, answer any) error {
	body, err := json.Marshal(ask)
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, c.URL+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	client := c.HTTP
	if client == nil {
		client = http.DefaultClient
	}
	res, err := client.Do(req)
	if err != nil {
		return err
	}
	defer func() { _ = res.Body.Close() }()
	switch res.StatusCode {
	case http.StatusOK:
		return json.NewDecoder(res.Body).Decode(answer)
	case http.StatusUnprocessableEntity:
		var r refusalAnswer
		if err := json.NewDecoder(res.Body).Decode(&r); err != nil {
			return err
		}
		return &dock.Refused{Sentence: r.Sentence}
	}
	return fmt.Errorf("the carrier answered %s", res.Status)
}
