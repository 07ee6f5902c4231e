-- The current grows until the line parts.
dials {
  current = { 2.4, unit = "m/s", from = 0, to = 5,
     tip = "speed of the water, reached after 6 s" },
}

local river = scene:zone("river")

function on.tick()
  local risen = math.min(1, scene.time / 6)
  river.current = vec(dials.current * risen, 0, 0)
end

function on.snap(joint)
  print("the line parts at", joint.force:length(),
      "N")
  sound("crack", 1)
end
