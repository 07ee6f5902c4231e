-- Hop: an upward impulse when the action is pressed,
-- only from the ground.
-- needs action: hop (space)
dials {
  height = { 1.2, unit = "m", from = 0, to = 4,
             tip = "how high it hops" },
  by = { action = "hop", tip = "what makes it hop" },
}

function on.press(action)
  if action ~= dials.by or not body.grounded then
    return
  end
  -- From m g h = m v² / 2.
  local g = scene.gravity:length()
  local speed = math.sqrt(2 * g * dials.height)
  local more = speed - body.velocity:dot(scene.up)
  body:impulse(scene.up * body.mass * more)
end
