-- Pushed away by what touches it, then slowed by a
-- share each tick until it is still.
dials {
  push = { 5, unit = "m/s", from = 0, to = 15,
           tip = "speed after the push" },
  slow = { 2, unit = "1/s", from = 0, to = 10,
       tip = "share of its speed lost in a second" },
}

local sliding = false

function on.touch(hit)
  if hit.speed < 0.3 then return end
  local away = vec(hit.normal.x, 0, hit.normal.z)
  if away:length() < 0.1 then return end
  body.velocity = away:unit() * dials.push
  sliding = true
end

function on.tick(dt)
  if not sliding then return end
  -- exp keeps it the same at every tick rate; v *
  -- 0.95 would not.
  local v = body.velocity
  local flat = vec(v.x, 0,
      v.z) * math.exp(-dials.slow * dt)
  sliding = flat:length() > 0.05
  if not sliding then flat = vec() end
  body.velocity = vec(flat.x, v.y, flat.z)
end
