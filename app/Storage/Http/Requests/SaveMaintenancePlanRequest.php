<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use App\Storage\Models\MaintenancePlan;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to MaintenanceController::store().
 */
final class SaveMaintenancePlanRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'acts' => ['required', 'array'],
            'acts.*' => ['in:'.implode(',', array_keys(MaintenancePlan::ACTS))],
            'when' => ['required', 'in:needed,cron'],
            'cron' => ['nullable', 'required_if:when,cron', 'string', 'max:60'],
            'small' => ['required', 'numeric', 'between:0,1'],
            'depth' => ['required', 'numeric', 'between:1,1000'],
            'changed' => ['required', 'numeric', 'between:0,1000'],
            'expire_days' => ['required', 'integer', 'between:0,3650'],
            'keep' => ['required', 'integer', 'between:1,1000'],
            'hours_from' => ['required', 'integer', 'between:0,23'],
            'hours_to' => ['required', 'integer', 'between:1,24'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'acts.required' => 'Choose at least one thing to be done.',
            'cron.required_if' => 'Write a cron expression, such as 0 3 * * *, or choose "when needed".',
        ];
    }
}
