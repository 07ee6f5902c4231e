-- Thrust along facing while the action is held, up
-- to a speed limit.
-- needs action: thrust (w)
dials {
  thrust = { 90, unit = "N", from = 0, to = 500,
            tip = "force along the body's forward" },
  limit = { 6, unit = "m/s", from = 0, to = 20,
    tip = "no more thrust at this speed" },
  by = { action = "thrust", tip = "what fires it" },
}

function on.tick(dt)
  if not dials.by or not held(dials.by) then
    return
  end
  -- What is missing to the limit, so that the last
  -- push ends on it and not beyond.
  local speed = body.velocity:dot(body.forward)
  local missing = dials.limit - speed
  local enough = body.mass * missing / dt
  if missing > 0 then
    local push = math.min(dials.thrust, enough)
    body:force(body.forward * push)
  end
end
