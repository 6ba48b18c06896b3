! Brick of clay with much lime.
module yellow_brick_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: yellow_brick
  type, extends(material) :: yellow_brick
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type yellow_brick
contains
  pure real(wp) function conductivity(self, temperature)
    class(yellow_brick), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.55_wp + (0.00019_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(yellow_brick), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 850.0_wp + 0.2_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(yellow_brick), intent(in) :: self
    density = 1680.0_wp
  end function density
end module yellow_brick_material
