! A kiln that is held at its peak until nothing changes any more.
module driver
  use kinds, only: wp
  use settings, only: firing_settings
  use firing_run, only: run_firing
  use protocol, only: say
  implicit none
  private
  public :: drive
contains
  subroutine drive(settings)
    type(firing_settings), intent(in) :: settings
    call say('soaking at the peak')
    call run_firing(settings, at_the_peak)
  end subroutine drive
  ! Where the curve has its peak, at whatever step.
  pure real(wp) function at_the_peak(step, steps)
    integer, intent(in) :: step, steps
    at_the_peak = merge(0.65_wp, 1.0_wp, step <= steps)
  end function at_the_peak
end module driver
