! A whole firing, from cold to cold, by the curve.
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
    call say('a whole firing')
    call run_firing(settings, along_the_curve)
  end subroutine drive
  pure real(wp) function along_the_curve(step, steps)
    integer, intent(in) :: step, steps
    along_the_curve = real(step, wp)/real(steps, wp)
  end function along_the_curve
end module driver
