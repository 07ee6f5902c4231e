-- Serve in a random direction, within a cone about
-- X, when the action is pressed. The same seed
-- serves the same.
-- needs action: serve (enter)
dials {
  speed = { 6, unit = "m/s", from = 0, to = 20,
            tip = "speed of the serve" },
  spread = { 0.4, unit = "rad", from = 0, to = 1.5,
             tip = "greatest angle from straight" },
  by = { action = "serve", tip = "what serves it" },
}

local home = body.position

function on.press(action)
  if action ~= dials.by then return end
  body:halt()
  body:place(home)
  local lean = turn(vec(1, 0, 0),
      random(0, 2 * math.pi)) * turn(vec(0, 0, 1),
      random(0, dials.spread))
  body.velocity = lean * vec(dials.speed, 0, 0)
end
