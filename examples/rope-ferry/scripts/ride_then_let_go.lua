-- Ride a path in an exact time, then let go with a
-- random nudge.
-- needs path: way
dials {
  seconds = { 2.5, unit = "s", from = 0.2, to = 10,
      tip = "how long the ride takes, to the tick" },
  nudge = { 1, unit = "m/s", from = 0, to = 6,
        tip = "greatest sideways speed at the end" },
  way = { path = "way", tip = "the path it rides" },
}

body.kind = "kinematic"

function on.play()
  if not dials.way then return end
  body:ride(dials.way,
      { seconds = dials.seconds, release = true })
end

function on.arrive()
  local angle = random(0, 2 * math.pi)
  local speed = random(0, dials.nudge)
  local x, z = math.cos(angle), math.sin(angle)
  body:impulse(vec(x, 0, z) * speed * body.mass)
end
