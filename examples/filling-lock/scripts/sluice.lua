-- Lets water into the lock or out of it; the gate
-- lifts when it is full.
-- needs action: fill (f)
-- needs action: empty (e)
dials {
  inflow = { 0.35, unit = "m/s", from = 0.02, to = 1,
             tip = "how fast the level moves" },
  full = { 0.6, unit = "m", from = -1, to = 1,
           tip = "level at which the gate lifts" },
}

local chamber = scene:zone("chamber")
local low = chamber.level
local way = 1 -- filling at first
local lifted = 0

function on.press(action)
  if action == "fill" then way = 1 end
  if action == "empty" then way = -1 end
end

function on.tick(dt)
  local rise = way * dials.inflow * dt
  local level = chamber.level + rise
  chamber.level = math.max(low,
      math.min(dials.full, level))
  local open = chamber.level >= dials.full and 1 or 0
  if open == 1 and lifted == 0 then
    print("the lock is full")
  end
  local step = math.max(-dt,
      math.min(dt, open * 2.6 - lifted))
  lifted = lifted + step
  body.velocity = vec(0, step / dt, 0)
end
