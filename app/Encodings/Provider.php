<?php

declare(strict_types=1);

namespace App\Encodings;

use App\Encodings\Models\LabRun;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(LabRun::class));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tune, 'encodings', 'Encodings', 'encoding.index', 'Improve')];
    }
}
