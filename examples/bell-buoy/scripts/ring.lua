-- A stroke on the bell is heard, louder the harder.
dials {
  least = { 0.15, unit = "m/s", from = 0, to = 2,
            tip = "gentler strokes are not heard" },
}

function on.touch(hit)
  local loud = hit.speed > dials.least
  if hit.other.name == "buoy" and loud then
    sound("bell", math.min(1, hit.speed))
  end
end
