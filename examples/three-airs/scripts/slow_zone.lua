-- Slow zone: in any zone that senses this body it is
-- damped; outside it has its own damping again.
-- needs zone
dials {
  damping = { 4, unit = "1/s", from = 0, to = 20,
    tip = "share of its speed lost a second" },
}

local own = body.linear_damping
local inside = 0 -- zones may overlap

function on.enter()
  inside = inside + 1
  body.linear_damping = own + dials.damping
end

function on.leave()
  inside = inside - 1
  if inside == 0 then body.linear_damping = own end
end
