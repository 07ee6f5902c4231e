-- Goes to and fro across the court, as a bat does.
dials {
  reach = { 2.2, unit = "m", from = 0, to = 2.4,
            tip = "how far to each side" },
  period = { 2.4, unit = "s", from = 0.8, to = 6,
             tip = "there and back" },
}

local home = body.position

function on.tick()
  local phase = 2 * math.pi / dials.period
  local swing = math.cos(phase * scene.time)
  local speed = dials.reach * phase * swing
  body.velocity = vec(0, 0, speed)
end
