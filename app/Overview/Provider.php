<?php

declare(strict_types=1);

namespace App\Overview;

use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;

final class Provider extends Capability
{
    protected function pages(): array
    {
        return [new Page(Bench::Round, '', 'Round', 'round')];
    }
}
