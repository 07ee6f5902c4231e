-- watch_cord.lua: says how hard the cord pulled when it parted
function on.snap(joint)
  print(joint.name, "parted at", joint.force:length(), "N")
end
