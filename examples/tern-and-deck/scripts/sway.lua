-- The deck goes from side to side.
dials {
  speed = { 1.2, unit = "m/s", from = 0, to = 4,
            tip = "greatest speed sideways" },
  period = { 3, unit = "s", from = 1, to = 8,
             tip = "there and back" },
}

function on.tick()
  local time = scene.time
  local turn = 2 * math.pi * time / dials.period
  local speed = dials.speed * math.cos(turn)
  body.velocity = vec(speed, 0, 0)
end
