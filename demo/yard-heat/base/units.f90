! Temperatures as people write them, and as the model computes with them.
module units
  use kinds, only: wp
  use constants, only: zero_celsius
  implicit none
  private
  public :: kelvin, celsius, seconds
  interface seconds
    module procedure seconds_of_hours, seconds_of_minutes
  end interface seconds
contains
  pure elemental real(wp) function kelvin(degrees)
    real(wp), intent(in) :: degrees
    kelvin = degrees + zero_celsius
  end function kelvin
  pure elemental real(wp) function celsius(temperature)
    real(wp), intent(in) :: temperature
    celsius = temperature - zero_celsius
  end function celsius
  pure real(wp) function seconds_of_hours(hours)
    real(wp), intent(in) :: hours
    seconds_of_hours = 3600.0_wp*hours
  end function seconds_of_hours
  pure real(wp) function seconds_of_minutes(minutes)
    integer, intent(in) :: minutes
    seconds_of_minutes = 60.0_wp*real(minutes, wp)
  end function seconds_of_minutes
end module units
