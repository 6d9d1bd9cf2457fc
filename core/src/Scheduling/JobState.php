<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

enum JobState: string
{
    case Running = 'running';
    case Done = 'done';
    case Failed = 'failed';
}
