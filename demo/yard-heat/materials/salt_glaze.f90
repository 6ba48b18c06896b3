! Glass that salt makes of the surface.
module salt_glaze_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: salt_glaze
  type, extends(material) :: salt_glaze
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type salt_glaze
contains
  pure real(wp) function conductivity(self, temperature)
    class(salt_glaze), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.98_wp + (9e-05_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(salt_glaze), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 815.0_wp + 0.27_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(salt_glaze), intent(in) :: self
    density = 2400.0_wp
  end function density
end module salt_glaze_material
