-- The application database of Marrowby Sound Ferries, a made-up ferry line.
-- An ordinary application schema: Gavrik learns of it by introspection alone.
CREATE SCHEMA ferry;
SET LOCAL search_path = ferry;

CREATE TABLE ports (
  id int PRIMARY KEY, code text NOT NULL UNIQUE, name text NOT NULL UNIQUE, country text NOT NULL,
  berths int NOT NULL, opened_on date);
COMMENT ON TABLE ports IS 'One row per harbour that the line calls at.';
COMMENT ON COLUMN ports.country IS 'Country the harbour lies in.';

CREATE TABLE routes (
  id int PRIMARY KEY, code text NOT NULL UNIQUE, name text NOT NULL UNIQUE,
  from_port_id int NOT NULL, to_port_id int NOT NULL,
  distance_nm numeric(6,1) NOT NULL, crossing interval NOT NULL, seasonal boolean NOT NULL);
COMMENT ON TABLE routes IS 'One row per route, there and back.';
COMMENT ON COLUMN routes.distance_nm IS 'Distance in nautical miles.';
COMMENT ON COLUMN routes.crossing IS 'Planned time from departure to arrival.';

CREATE TABLE vessels (
  id int PRIMARY KEY, name text NOT NULL UNIQUE, picture bytea, built_on date NOT NULL,
  passengers int NOT NULL, car_deck_m int NOT NULL, certificate_expires_on date, in_service boolean NOT NULL);
COMMENT ON TABLE vessels IS 'One row per vessel of the fleet, laid-up ones included.';
COMMENT ON COLUMN vessels.car_deck_m IS 'Length of the car-deck lanes in metres.';
COMMENT ON COLUMN vessels.certificate_expires_on IS 'Last day of the safety certificate.';

CREATE TABLE inspections (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, vessel_id int NOT NULL, kind text NOT NULL,
  inspected_on date NOT NULL, score numeric(5,2), passed boolean, note text);
COMMENT ON TABLE inspections IS 'One row per inspection of a vessel.';
COMMENT ON COLUMN inspections.score IS 'Share of the points reached. (percent)';

CREATE TABLE staff (
  id int PRIMARY KEY, name text NOT NULL UNIQUE, role text NOT NULL, port_id int,
  started_on date NOT NULL, email text);
COMMENT ON TABLE staff IS 'One row per person who works or has worked for the line.';

CREATE TABLE sailings (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, route_id int NOT NULL,
  vessel_id int NOT NULL, master_id int, departs_at timestamptz NOT NULL,
  departed_at timestamptz, arrived_at timestamptz, delay interval, status text NOT NULL, weather text,
  wind real, car_deck_free_m int, passengers int);
COMMENT ON TABLE sailings IS 'One row per sailing in the timetable, cancelled ones included.';
COMMENT ON COLUMN sailings.departs_at IS 'Departure by the timetable.';
COMMENT ON COLUMN sailings.departed_at IS 'Departure as it was; blank until it is known.';
COMMENT ON COLUMN sailings.delay IS 'Departure as it was less departure by the timetable.';
COMMENT ON COLUMN sailings.wind IS 'Wind at departure in metres per second.';
COMMENT ON COLUMN sailings.car_deck_free_m IS 'Lane metres left free on the car deck.';

CREATE TABLE customers (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, name text NOT NULL, email text, kind text NOT NULL,
  country text, joined_on date NOT NULL, newsletter boolean);
COMMENT ON TABLE customers IS 'One row per customer who has booked at least once.';
COMMENT ON COLUMN customers.country IS 'Country the customer lives in.';

CREATE TABLE bookings (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, customer_id int NOT NULL,
  sailing_id int NOT NULL, agent_id int, channel text NOT NULL,
  status text NOT NULL, booked_at timestamptz NOT NULL, passengers int NOT NULL, fare numeric(10,2) NOT NULL,
  discount numeric(5,2), note text);
COMMENT ON TABLE bookings IS 'One row per booking, whatever became of it.';
COMMENT ON COLUMN bookings.agent_id IS 'Who took the booking at a counter or by phone; blank for the web.';
COMMENT ON COLUMN bookings.fare IS 'What the whole booking costs. (money)';
COMMENT ON COLUMN bookings.discount IS 'Taken off the list fare. (percent)';

CREATE TABLE booking_lines (
  id int PRIMARY KEY, booking_id int NOT NULL, kind text NOT NULL, item text NOT NULL,
  quantity int NOT NULL, unit_price numeric(10,2) NOT NULL, amount numeric(10,2) NOT NULL, refunded boolean NOT NULL);
COMMENT ON TABLE booking_lines IS 'One row per item of a booking: fares, cars, cabins, meals.';
COMMENT ON COLUMN booking_lines.unit_price IS 'Price of one; the same item has different prices in the season. (money)';
COMMENT ON COLUMN booking_lines.amount IS 'Quantity times unit price; negative for a refund. (money)';

CREATE TABLE payments (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, booking_id int NOT NULL, method text NOT NULL,
  paid_at timestamptz NOT NULL, amount numeric(10,2) NOT NULL);
COMMENT ON TABLE payments IS 'One row per payment or refund.';
COMMENT ON COLUMN payments.amount IS 'Negative for a refund. (money)';

CREATE TABLE claims (
  id int PRIMARY KEY, ref text NOT NULL UNIQUE, booking_id int NOT NULL, category text NOT NULL,
  status text, opened_at timestamptz NOT NULL, closed_at timestamptz, claimed numeric(10,2) NOT NULL,
  paid numeric(10,2), handler_id int, note text);
COMMENT ON TABLE claims IS 'One row per claim a customer has made.';
COMMENT ON COLUMN claims.claimed IS 'What the customer asks for. (money)';
COMMENT ON COLUMN claims.paid IS 'What has been paid on the claim so far; blank before a decision. (money)';
COMMENT ON COLUMN claims.handler_id IS 'Who handles the claim; blank until somebody takes it.';
