<?php

declare(strict_types=1);

namespace App\Estate;

use App\Platform\Sections\Capability;
use App\Platform\Support\Role;
use Fulcrion\Core\Usage\Calendar;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->scoped(Calendar::class, static fn (): Calendar => (new EstateCalendar())->read());
    }

    protected function abilities(): array
    {
        return ['connect' => [Role::Engineer, Role::Owner], 'run' => [Role::Engineer, Role::Owner]];
    }
}
