-- Bounce off by reflecting, turned by the way the
-- other one moves along its face.
dials {
  keep = { 1, from = 0, to = 1.5,
          tip = "share of the speed that it keeps" },
  take_along = { 0.5, from = 0, to = 2,
    tip = "of the other's sideways motion" },
}

local before = body.velocity

function on.tick() before = body.velocity end

function on.touch(hit)
  local speed = before:length() * dials.keep
  local other = hit.other:velocity_at(hit.point)
  local n = hit.normal
  local sideways = other - n * other:dot(n)
  local away = before:reflect(n)
  away = away + sideways * dials.take_along
  body.velocity = away:unit() * speed
end
