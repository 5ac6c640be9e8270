-- Two more kinds of events: the valve on the pump's side was proved tight, and after a gas test air to breathe was proved.
ALTER TABLE event DROP CONSTRAINT event_kind;
ALTER TABLE event ADD CONSTRAINT event_kind CHECK (kind IN ('filled', 'step_reached', 'valve_proved', 'pump_off', 'look_done', 'leak_seen', 'repump', 'bleed', 'hold_ended', 'released', 'vent_opened', 'drained', 'air_proved', 'noted'));
