-- Moves to and fro as the action says, between its
-- rails. Two paddles with keys of their own need one
-- script: each has its own dial.
dials {
  by = { action = "", tip = "what moves it" },
  speed = { 6, unit = "m/s", from = 0, to = 12,
            tip = "at full stick" },
  reach = { 2.4, unit = "m", from = 0, to = 4,
            tip = "how far to each side" },
}

local home = body.position

function on.tick(dt)
  local stick = dials.by and axis(dials.by) or 0
  local way = (body.position - home):dot(scene.forward)
  local wish = stick * dials.speed
  -- No farther than the rail within the tick.
  local most = (dials.reach - way) / dt
  local least = (-dials.reach - way) / dt
  wish = math.max(least, math.min(wish, most))
  body.velocity = scene.forward * wish
end
