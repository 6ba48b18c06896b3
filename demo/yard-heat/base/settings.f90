! What a firing is run with: a namelist in firing.nml of the working folder, or what stands here.
module settings
  use kinds, only: wp
  implicit none
  private
  public :: firing_settings, read_settings
  type :: firing_settings
    integer :: columns = 48        ! of bricks in the kiln
    integer :: cells = 20          ! from the face of a column to its core
    real(wp) :: thickness = 0.24_wp
    real(wp) :: hours = 12.0_wp
    real(wp) :: step = 60.0_wp     ! s
    real(wp) :: peak = 1222.0_wp   ! degrees Celsius
  end type firing_settings
contains
  function read_settings() result(out)
    type(firing_settings) :: out
    integer :: columns, cells, unit, state
    real(wp) :: thickness, hours, step, peak
    logical :: there
    namelist /firing/ columns, cells, thickness, hours, step, peak
    inquire (file='firing.nml', exist=there)
    if (.not. there) return
    columns = out%columns; cells = out%cells; thickness = out%thickness
    hours = out%hours; step = out%step; peak = out%peak
    open (newunit=unit, file='firing.nml', status='old', action='read')
    read (unit, nml=firing, iostat=state)
    close (unit)
    if (state /= 0) return
    out = firing_settings(columns, cells, thickness, hours, step, peak)
  end function read_settings
end module settings
