-- Pushed away by what touches it, from its middle,
-- and after a moment slowed until it is still.
dials {
  push = { 5, unit = "m/s", from = 0, to = 15,
           tip = "speed after the push" },
  pause = { 0.3, unit = "s", from = 0, to = 3,
            tip = "how long it keeps that speed" },
  slow = { 2, unit = "1/s", from = 0, to = 10,
       tip = "share of its speed lost in a second" },
  who = { tag = "", tip = "who pushes it; "
       .. "none named: all that is not static" },
}

local slide -- seconds since the push, if it slides

local function counts(other)
  if dials.who then return other:has(dials.who) end
  return other.kind ~= "static"
end

-- What of a vector goes over the ground.
local function flat(v)
  return v - scene.up * v:dot(scene.up)
end

function on.touch(hit)
  if hit.speed < 0.3 or not counts(hit.other) then
    return
  end
  local away = flat(body.centre - hit.other.centre)
  if away:length() < 0.01 then return end
  local v = body.velocity
  body.velocity = v - flat(v) + away:unit() * dials.push
  slide = 0
end

function on.tick(dt)
  if not slide then return end
  slide = slide + dt
  if slide < dials.pause then return end
  -- exp keeps it the same at every tick rate; v *
  -- 0.95 would not.
  local v = body.velocity
  local left = flat(v) * math.exp(-dials.slow * dt)
  if left:length() < 0.05 then
    left, slide = vec(), nil
  end
  body.velocity = v - flat(v) + left
end
