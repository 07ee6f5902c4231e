-- Light zone: in any zone that senses this body its
-- weight shrinks; outside it is as heavy as ever.
-- needs zone
dials {
  factor = { 0.2, unit = "×", from = -1, to = 1,
    tip = "share of its weight left inside" },
}

local own = body.gravity_factor
local inside = 0

function on.enter()
  inside = inside + 1
  body.gravity_factor = own * dials.factor
end

function on.leave()
  inside = inside - 1
  if inside == 0 then body.gravity_factor = own end
end
