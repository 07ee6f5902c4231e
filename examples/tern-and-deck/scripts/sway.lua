-- The deck goes from side to side.
dials {
  speed = { 1.2, unit = "m/s", from = 0, to = 4, tip = "greatest speed sideways" },
  period = { 3, unit = "s", from = 1, to = 8, tip = "there and back" },
}

function on.tick()
  body.velocity = vec(dials.speed * math.cos(2 * math.pi * scene.time / dials.period), 0, 0)
end
