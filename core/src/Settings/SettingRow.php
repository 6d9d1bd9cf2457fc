<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * One setting across hosts.
 */
final readonly class SettingRow
{
    /**
     * @param  array<string, string|null>  $values by host; null where it cannot be read
     * @param  array<string, SettingState>  $states by host
     */
    public function __construct(public string $name, public ?DesiredSetting $desired, public array $values, public array $states)
    {
    }

    /** Whether somebody differs, from what is desired or from the others. */
    public function differs(): bool
    {
        foreach ($this->states as $state) {
            if ($state === SettingState::Differs || $state === SettingState::Odd) {
                return true;
            }
        }

        return false;
    }
}
