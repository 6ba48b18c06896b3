! Glass of feldspar and lime.
module clear_glaze_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: clear_glaze
  type, extends(material) :: clear_glaze
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type clear_glaze
contains
  pure real(wp) function conductivity(self, temperature)
    class(clear_glaze), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 1.02_wp + (8e-05_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(clear_glaze), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 810.0_wp + 0.28_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(clear_glaze), intent(in) :: self
    density = 2450.0_wp
  end function density
end module clear_glaze_material
