<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Fulcrion\Core\Storage\HouseRules;
use Illuminate\Foundation\Http\FormRequest;

/**
 * Thresholds of a house rule.
 */
final class SaveRuleRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        $name = $this->route('rule');
        $rule = (is_string($name) ? HouseRules::all()[$name] ?? null : null) ?? abort(404);
        $checks = ['off' => ['nullable', 'boolean']];
        foreach (array_keys($rule->thresholds()) as $threshold) {
            $checks["thresholds.{$threshold}"] = ['required', 'numeric', 'min:0', 'max:1000000000000'];
        }

        return $checks;
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'required' => 'A threshold is missing; every one needs a number.',
            'numeric' => 'A threshold needs a number, 0 or more.',
            'min' => 'A threshold cannot be below 0.',
            'max' => 'This threshold is beyond anything a table can have.',
        ];
    }
}
