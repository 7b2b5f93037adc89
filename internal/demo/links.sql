-- Foreign keys, added once the rows are there: one check for each, not one for each row.
SET LOCAL search_path = ferry;
ALTER TABLE routes ADD FOREIGN KEY (from_port_id) REFERENCES ports;
ALTER TABLE routes ADD FOREIGN KEY (to_port_id) REFERENCES ports;
ALTER TABLE inspections ADD FOREIGN KEY (vessel_id) REFERENCES vessels;
ALTER TABLE staff ADD FOREIGN KEY (port_id) REFERENCES ports;
ALTER TABLE sailings ADD FOREIGN KEY (route_id) REFERENCES routes;
ALTER TABLE sailings ADD FOREIGN KEY (vessel_id) REFERENCES vessels;
ALTER TABLE sailings ADD FOREIGN KEY (master_id) REFERENCES staff;
ALTER TABLE bookings ADD FOREIGN KEY (customer_id) REFERENCES customers;
ALTER TABLE bookings ADD FOREIGN KEY (sailing_id) REFERENCES sailings;
ALTER TABLE bookings ADD FOREIGN KEY (agent_id) REFERENCES staff;
ALTER TABLE booking_lines ADD FOREIGN KEY (booking_id) REFERENCES bookings;
ALTER TABLE payments ADD FOREIGN KEY (booking_id) REFERENCES bookings;
ALTER TABLE claims ADD FOREIGN KEY (booking_id) REFERENCES bookings;
ALTER TABLE claims ADD FOREIGN KEY (handler_id) REFERENCES staff;
