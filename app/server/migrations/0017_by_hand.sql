-- What is booked by hand beside the run's own course: its figure in SI, and the thing, place or person that it is about.
ALTER TABLE event ADD COLUMN figure DOUBLE NULL;
ALTER TABLE event ADD COLUMN about VARCHAR(60) COLLATE utf8mb4_bin NULL;
ALTER TABLE event DROP CONSTRAINT event_kind;
ALTER TABLE event ADD CONSTRAINT event_kind CHECK (kind IN ('filled', 'step_reached', 'valve_proved', 'pump_off', 'look_done', 'leak_seen', 'repump', 'bleed', 'hold_ended', 'released', 'vent_opened', 'drained', 'air_proved', 'noted',
  'gas_on', 'soaped', 'gas_off', 'fill_begun', 'vent_ran', 'water_was', 'metal_was', 'air_was', 'mains_on', 'mains_off', 'stroked', 'pumped', 'beyond_scale', 'nipped_up', 'drip_cured', 'hammered', 'lamp_looked', 'swelled', 'deflected', 'handed_over'));
