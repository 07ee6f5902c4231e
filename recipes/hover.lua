-- Hover: holds up its own weight times a factor. 1
-- floats, below 1 sinks slowly, above 1 rises.
dials {
  factor = { 1, from = 0, to = 2,
       tip = "share of the weight that is held up" },
}

function on.tick()
  body:force(vec(0, body.weight * dials.factor, 0))
end
