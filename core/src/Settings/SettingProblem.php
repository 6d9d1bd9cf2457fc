<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * What cannot be read of a profile.
 */
final readonly class SettingProblem
{
    /**
     * @param  string  $setting name of it, or of a field of the whole
     */
    public function __construct(public string $setting, public string $field, public string $what)
    {
    }

    public function said(): string
    {
        return $this->setting.($this->field === '' ? '' : ", {$this->field}").": it {$this->what}.";
    }
}
