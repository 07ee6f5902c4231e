-- There and back between two marks, facing the way
-- it goes. The body moves as told: make it
-- kinematic.
dials {
  far = { 4, unit = "m", from = -10, to = 10,
          tip = "along X from where it starts" },
  speed = { 1.5, unit = "m/s", from = 0.1, to = 6,
            tip = "how fast it goes" },
}

body.kind = "kinematic"
local home = body.position
local outward = true

function on.tick(dt)
  local far = home + vec(dials.far, 0, 0)
  local goal = outward and far or home
  local way = goal - body.position
  if way:length() < 0.01 then
    outward = not outward
    return
  end
  body.orientation = turn.facing(way)
  -- No faster than what is left, so that it stops on
  -- the mark.
  body.velocity = way:unit() * math.min(dials.speed,
      way:length() / dt)
end
