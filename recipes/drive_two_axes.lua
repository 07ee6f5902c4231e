-- Drive by velocity on two axes: what is held sets
-- the speed over the ground (in a planar scene seen
-- from above, in the plane); gravity keeps the third
-- axis.
-- needs action: steer (d / a)
-- needs action: go (w / s)
dials {
  speed = { 4, unit = "m/s", from = 0, to = 12,
            tip = "speed at full stick" },
  across = { action = "steer", tip = "right and left" },
  ahead = { action = "go", tip = "away and back" },
}

local function stick(action)
  return action and axis(action) or 0
end

function on.tick()
  local wish = scene.across * stick(dials.across)
      + scene.forward * stick(dials.ahead)
  -- Keep what goes up and down: setting all three
  -- would wipe out what gravity did, and it would
  -- never fall.
  local fall = scene.up * body.velocity:dot(scene.up)
  body.velocity = wish:limit(1) * dials.speed + fall
end
